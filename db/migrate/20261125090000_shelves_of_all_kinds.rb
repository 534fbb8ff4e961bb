# frozen_string_literal: true

# Shelves of several kinds, images in any open format, what is inside of them,
# and a trouble of which only a span is known.
class ShelvesOfAllKinds < ActiveRecord::Migration[7.2]
  def up
    shelves
    images
    image_files
    change_table(:dockets) { |t| t.datetime :trouble_noticed }
    change_table(:drives) { |t| t.string :disk_guid }
    change_column_null :trial_starts, :docket_id, true
  end

  def down = raise(ActiveRecord::IrreversibleMigration)

  private

  def shelves
    change_table :shelves do |t|
      t.string :kind, null: false, default: 'folder'
      t.string :volume_uuid, :user
      t.bigint :free_bytes, :total_bytes, :read_speed
      t.boolean :reachable, null: false, default: true
      t.datetime :reachable_changed_at, :seen_at
      t.string :look_state, null: false, default: 'idle'
      t.integer :look_done, :look_total, null: false, default: 0
      t.boolean :look_stop, null: false, default: false
      t.text :look_error
    end
    execute "UPDATE shelves SET kind = 'drive' WHERE drive_id IS NOT NULL"
    create_table :shelf_files do |t|
      t.references :shelf, null: false, foreign_key: { on_delete: :cascade }
      t.string :path, null: false, limit: 700, collation: 'utf8mb4_bin'
      t.text :stamp, :problem
      t.json :members
    end
    add_index :shelf_files, %i[shelf_id path], unique: true
  end

  def images
    rename_column :images, :folder, :place
    change_column :images, :place, :string, null: false, limit: 700, collation: 'utf8mb4_bin'
    change_table :images do |t|
      t.string :format, null: false, default: 'evrel-image'
      t.string :model, :host, :system_identity, :drive_serial, :disk_guid
      t.bigint :size_bytes, :needed_bytes, null: false, default: 0
      t.text :problem
      # What a search by word looks at, in lower case.
      t.text :words
      t.json :check_progress
      t.boolean :pause_asked, null: false, default: false
      t.datetime :indexed_at, :gone_at
    end
    %i[taken_at state host system_identity drive_serial disk_guid model].each { |column| add_index :images, column }
  end

  # Names of the files inside, learnt while an image is checked.
  def image_files
    create_table :image_files do |t|
      t.references :image, null: false, foreign_key: { on_delete: :cascade }
      t.integer :part, null: false
      t.string :name, null: false, limit: 255
      t.text :path, null: false
      t.bigint :size, null: false
      t.datetime :modified_at
    end
    add_index :image_files, :name
  end
end
