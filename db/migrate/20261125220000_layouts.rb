# frozen_string_literal: true

# What is being made of a layout before it is sealed, layouts that are kept for
# a row of equal computers, and dry runs.
class Layouts < ActiveRecord::Migration[7.2]
  def up
    add_column :dockets, :layout_draft, :json
    create_table :layout_presets do |t|
      t.string :name, null: false, index: { unique: true }
      t.json :wish, null: false
      t.references :technician, null: false, foreign_key: true
      t.timestamps
    end
    create_table :layout_tries do |t|
      t.references :docket, null: false, foreign_key: true
      t.references :technician, null: false, foreign_key: true
      t.string :state, null: false, default: 'queued'
      t.string :digest, null: false
      t.json :wish, null: false
      t.json :progress, :facts
      t.text :error
      t.boolean :stop_asked, null: false, default: false
      t.timestamps
    end
    add_reference :trial_starts, :layout_try, foreign_key: true
  end

  def down = raise(ActiveRecord::IrreversibleMigration)
end
