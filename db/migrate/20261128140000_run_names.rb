# frozen_string_literal: true

# What makes each system of a run its own, and why one of them did not get it.
class RunNames < ActiveRecord::Migration[7.2]
  def change
    change_table :runs, bulk: true do |t|
      t.boolean :named, null: false, default: true
      t.json :templates
      t.json :names
    end
    add_column :dockets, :own_error, :text
  end
end
