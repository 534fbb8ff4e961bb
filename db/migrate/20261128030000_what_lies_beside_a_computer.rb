# frozen_string_literal: true

# Fields of one's own, and photos of its label and its inside.
class WhatLiesBesideAComputer < ActiveRecord::Migration[7.2]
  def change
    add_column :computers, :free, :json
    create_table :computer_photos do |t|
      t.references :computer, null: false, foreign_key: true
      t.references :technician, null: false, foreign_key: true
      t.string :of, limit: 20, null: false
      t.string :file, limit: 80, null: false
      t.string :bench, limit: 60, null: false
      t.timestamps
    end
  end
end
