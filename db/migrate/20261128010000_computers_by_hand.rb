# frozen_string_literal: true

# What technicians write down of a computer; its name is enough.
class ComputersByHand < ActiveRecord::Migration[7.2]
  def change
    change_column_null :computers, :firmware, true
    change_table :computers, bulk: true do |t|
      t.string :owner, limit: 120
      t.string :maker, limit: 120
      t.string :serial, limit: 120, index: true
      t.string :boot_menu, limit: 400
      t.text :precious
      t.json :boot_entries
      t.json :boot_order
      t.datetime :retired_at
    end
  end
end
