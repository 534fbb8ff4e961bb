# frozen_string_literal: true

# What a computer is, for its start; what trial starts show; mends of a written
# disk.
class ProofOfStart < ActiveRecord::Migration[7.2]
  def up
    change_table :computers do |t|
      t.text :hardware, size: :medium
      t.boolean :compatibility, null: false, default: false
      t.json :proof
    end
    change_table :trial_starts do |t|
      t.json :milestones, :wish
      t.text :text, size: :medium
      t.text :answer
      t.string :kind, null: false, default: 'emulator'
    end
    create_table :trial_inputs do |t|
      t.references :trial_start, null: false, foreign_key: true
      t.json :typed, null: false
      t.datetime :created_at, null: false
    end
    create_table :mends do |t|
      t.references :docket, :write, :technician, null: false, foreign_key: true
      t.references :undone_by, foreign_key: { to_table: :technicians }
      t.string :kind, :title, null: false
      t.text :before, :after
      t.json :places, null: false
      t.datetime :undone_at
      t.timestamps
    end
    create_table :ticks do |t|
      t.references :docket, :technician, null: false, foreign_key: true
      t.string :item, null: false
      t.boolean :done, null: false, default: false
      t.text :note
      t.string :photo
      t.timestamps
      t.index %i[docket_id item], unique: true
    end
  end

  def down = raise(ActiveRecord::IrreversibleMigration)
end
