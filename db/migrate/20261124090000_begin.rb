# frozen_string_literal: true

# The tables of the first slice.
class Begin < ActiveRecord::Migration[7.2]
  def change
    people_and_things
    shelves_and_images
    dockets_and_seals
    work
    events
    delayed_jobs
  end

  private

  def people_and_things
    create_table :technicians do |t|
      t.string :sign_in, null: false, index: { unique: true }
      t.string :name, null: false
      t.string :initials, null: false, limit: 4
      t.string :password_digest, null: false
      t.boolean :lead, null: false, default: false
      t.timestamps
    end
    create_table :computers do |t|
      t.string :name, null: false, index: { unique: true }
      t.string :place, :model, :note
      t.string :system_identity, index: { unique: true }
      t.string :firmware, null: false
      t.boolean :secure_boot, null: false, default: false
      t.timestamps
    end
  end

  def dockets_and_seals
    create_table :dockets do |t|
      t.references :computer, null: false, foreign_key: true
      t.references :opened_by, null: false, foreign_key: { to_table: :technicians }
      t.string :cause, null: false
      t.datetime :trouble_since
      t.text :note
      t.datetime :closed_at
      t.timestamps
    end
    # A drive serves one docket at a time.
    add_reference :drives, :docket, foreign_key: true
    create_table :seals do |t|
      t.references :docket, null: false, foreign_key: true
      t.references :technician, null: false, foreign_key: true
      t.string :station, null: false
      t.string :summary, null: false
      t.json :decision, null: false
      t.json :evidence, null: false
      t.datetime :broken_at
      t.string :broken_because
      t.references :broken_by, foreign_key: { to_table: :technicians }
      t.timestamps
    end
    add_index :seals, %i[docket_id station]
  end

  def shelves_and_images
    create_table :drives do |t|
      t.string :serial, null: false, index: { unique: true }
      t.string :wwn, :maker, :model, :bus
      t.bigint :capacity, null: false
      t.boolean :rotating, null: false, default: false
      t.references :computer, foreign_key: true
      t.string :last_port
      t.datetime :last_seen_at
      t.timestamps
    end
    create_table :shelves do |t|
      t.string :name, null: false, index: { unique: true }
      t.string :path, null: false
      t.references :drive, foreign_key: true
      t.datetime :looked_at
      t.timestamps
    end
    create_table :images do |t|
      t.references :shelf, null: false, foreign_key: true
      t.references :computer, foreign_key: true
      t.string :uid, :folder, null: false
      t.datetime :taken_at, null: false
      t.bigint :used_bytes, null: false
      t.json :manifest, null: false
      t.string :state, null: false, default: 'unchecked'
      t.datetime :checked_at
      t.json :check_result
      t.timestamps
    end
    add_index :images, %i[shelf_id folder], unique: true
  end

  def work
    create_table :writes do |t|
      t.references :docket, null: false, foreign_key: true
      t.references :technician, null: false, foreign_key: true
      t.references :image, null: false, foreign_key: true
      t.references :drive, null: false, foreign_key: true
      t.string :state, null: false, default: 'queued'
      t.json :orders, :outcomes, :progress, :speeds, :expected, :mismatches
      t.text :error
      t.boolean :stop_asked, :verified, null: false, default: false
      t.datetime :started_at, :finished_at
      t.timestamps
    end
    create_table :start_checks do |t|
      t.references :docket, null: false, foreign_key: true
      t.references :write, null: false, foreign_key: true
      t.string :state, null: false
      t.json :steps, null: false
      t.timestamps
    end
    create_table :trial_starts do |t|
      t.references :docket, null: false, foreign_key: true
      t.references :image, foreign_key: true
      t.references :write, foreign_key: true
      t.references :technician, null: false, foreign_key: true
      t.string :state, null: false, default: 'queued'
      t.string :outcome, :picture
      t.float :seconds
      t.json :lines
      t.text :message
      t.boolean :stop_asked, null: false, default: false
      t.timestamps
    end
  end

  # Append-only: the database itself refuses to change what was recorded.
  def events
    create_table :events do |t|
      t.references :docket, foreign_key: true
      t.references :technician, foreign_key: true
      t.string :kind, null: false
      t.text :text, null: false
      t.json :data
      t.datetime :created_at, null: false
    end
    %w[update delete].each do |action|
      reversible do |step|
        step.up do
          execute "CREATE TRIGGER events_no_#{action} BEFORE #{action} ON events FOR EACH ROW " \
                  "SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'events are only ever added'"
        end
        step.down { execute "DROP TRIGGER events_no_#{action}" }
      end
    end
  end

  def delayed_jobs
    create_table :delayed_jobs do |t|
      t.integer :priority, :attempts, default: 0, null: false
      t.text :handler, null: false, size: :medium
      t.text :last_error, size: :medium
      t.datetime :run_at, :locked_at, :failed_at
      t.string :locked_by, :queue
      t.timestamps
    end
    add_index :delayed_jobs, %i[priority run_at]
  end
end
