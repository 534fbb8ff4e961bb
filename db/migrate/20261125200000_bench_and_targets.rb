# frozen_string_literal: true

# Drives known by their identity, protected, remembered from place to place;
# what is done to them in the background; and the unplug check.
class BenchAndTargets < ActiveRecord::Migration[7.2]
  def up
    drives
    create_table :drive_sightings do |t|
      t.references :drive, null: false, foreign_key: { on_delete: :cascade }
      t.string :port, null: false
      t.datetime :seen_from, :seen_until, null: false
    end
    drive_tasks
    create_table :unplug_checks do |t|
      t.references :docket, foreign_key: true
      t.references :drive, null: false, foreign_key: true
      t.references :technician, null: false, foreign_key: true
      t.bigint :from_move, null: false
      t.string :port, null: false
      t.string :state, null: false, default: 'waiting'
      t.string :reason
      t.datetime :ends_at, null: false
      t.timestamps
    end
  end

  def down = raise(ActiveRecord::IrreversibleMigration)

  private

  # A drive may have no serial, or one that another has too.
  def drives
    change_table :drives do |t|
      t.string :identity_key
      t.references :protected_by, foreign_key: { to_table: :technicians }
      t.string :protected_note
      t.date :protected_until
    end
    execute 'UPDATE drives SET identity_key = serial'
    change_column_null :drives, :identity_key, false
    add_index :drives, :identity_key, unique: true
    remove_index :drives, :serial
    change_column_null :drives, :serial, true
    add_index :drives, :serial
  end

  # kind: "count", "save", "image", "clean" or "capacity"
  def drive_tasks
    create_table :drive_tasks do |t|
      t.references :drive, null: false, foreign_key: true
      t.references :docket, foreign_key: true
      t.references :shelf, foreign_key: true
      t.references :technician, null: false, foreign_key: true
      t.string :kind, null: false
      t.string :state, null: false, default: 'queued'
      t.string :fingerprint
      t.json :params, :progress
      t.text :result, size: :long # it may name thousands of files
      t.text :error
      t.boolean :stop_asked, null: false, default: false
      t.datetime :finished_at
      t.timestamps
    end
    add_index :drive_tasks, %i[kind state]
  end
end
