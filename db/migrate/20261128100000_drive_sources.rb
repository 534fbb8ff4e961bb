# frozen_string_literal: true

# Drives from which a docket restores as they are: each with what was on it when
# it was sealed.
class DriveSources < ActiveRecord::Migration[7.2]
  def change
    create_table :drive_sources do |t|
      t.references :drive, null: false, foreign_key: true
      t.references :computer, foreign_key: true
      t.string :uid, null: false, limit: 64
      t.json :document, null: false
      t.datetime :taken_at, null: false
      t.bigint :used_bytes, null: false
      t.timestamps
    end
  end
end
