# frozen_string_literal: true

# One image onto many drives: a run, and the dockets that it is made of.
class Runs < ActiveRecord::Migration[7.2]
  def change
    create_table :runs do |t|
      t.references :image, null: false, foreign_key: true
      t.references :technician, null: false, foreign_key: true
      t.string :way, null: false, limit: 20
      t.text :reason, null: false
      t.text :note
      t.bigint :seed, null: false
      t.json :sample
      t.timestamps
    end
    add_reference :dockets, :run, foreign_key: true
    add_column :dockets, :run_place, :integer
    add_index :dockets, %i[run_id run_place], unique: true
  end
end
