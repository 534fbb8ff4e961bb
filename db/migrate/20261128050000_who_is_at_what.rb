# frozen_string_literal: true

# Which pages of a docket are open now, whose they are, and at what they are.
class WhoIsAtWhat < ActiveRecord::Migration[7.2]
  def change
    create_table :presences do |t|
      t.references :docket, null: false, foreign_key: true
      t.references :technician, null: false, foreign_key: true
      t.string :page, limit: 32, null: false, index: { unique: true }
      t.string :station, limit: 20, null: false
      t.string :choice, limit: 40
      t.datetime :seen_at, null: false, index: true
    end
  end
end
