# frozen_string_literal: true

# Who does the work that is marked as running, and that it still lives.
class LivingOwners < ActiveRecord::Migration[7.2]
  def up
    create_table :owners do |t|
      t.string :work, null: false, limit: 60, index: { unique: true }
      t.string :process, limit: 160
      t.bigint :beats, null: false, default: 0
      t.integer :taken_up, null: false, default: 0
      t.timestamps
    end
  end

  def down = raise(ActiveRecord::IrreversibleMigration)
end
