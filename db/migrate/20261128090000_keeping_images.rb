# frozen_string_literal: true

# What is done to images to keep them: copies, moves and chains made whole, the
# bin in which those lie that were given up, what somebody wrote on one, and how
# many of each computer are kept.
class KeepingImages < ActiveRecord::Migration[7.2]
  OPEN = "IF(state IN ('queued', 'running'), image_id, NULL)"

  def change
    change_table :images, bulk: true do |t|
      t.bigint :file_bytes
      t.string :own_note, limit: 500
      t.boolean :computer_said, null: false, default: false
      t.datetime :bin_until
      t.index :bin_until
    end
    change_table :computers, bulk: true do |t|
      t.integer :keep_newest, null: false, default: 7
      t.integer :keep_monthly, null: false, default: 12
      t.boolean :keep_started, null: false, default: true
    end
    create_table(:image_tasks) { |t| columns(t) }
    reversible do |way|
      way.up { execute("ALTER TABLE image_tasks ADD COLUMN open_image_id BIGINT AS (#{OPEN}) STORED") }
    end
    add_index :image_tasks, :open_image_id, unique: true
  end

  private

  def columns(table)
    %i[image technician].each { |name| table.references name, null: false, foreign_key: true }
    table.references :shelf, foreign_key: true
    table.references :made, foreign_key: { to_table: :images }
    table.string :kind, null: false, limit: 20
    table.string :state, null: false, default: 'queued', limit: 20
    table.json :progress
    table.text :error
    table.boolean :stop_asked, null: false, default: false
    table.datetime :finished_at
    table.timestamps
  end
end
