# frozen_string_literal: true

# Whether a computer could be restored today: how old its newest image may be,
# what was proved of it and when, and the hours in which that is done by itself.
class ReadinessOfComputers < ActiveRecord::Migration[7.2]
  def change
    add_column :computers, :wish_days, :integer, null: false, default: 30
    create_table :proofs do |t|
      t.references :computer, null: false, foreign_key: true
      t.references :image, null: false, foreign_key: true
      t.references :technician, null: false, foreign_key: true
      t.references :trial_start, foreign_key: true
      t.boolean :by_night, null: false, default: false
      t.string :state, null: false, default: 'waiting'
      t.string :outcome
      t.text :message
      t.boolean :held, null: false, default: false
      t.string :bench, limit: 60, null: false
      t.datetime :finished_at
      t.timestamps
      # One at a time of each computer.
      t.virtual :open_computer_id, type: :bigint, as: "if(`state` <> 'done', `computer_id`, NULL)", stored: true
      t.index :open_computer_id, unique: true
    end
    create_table :night_windows do |t|
      t.string :bench, limit: 60, null: false, index: { unique: true }
      t.string :begins, limit: 5, null: false
      t.string :ends, limit: 5, null: false
      t.references :technician, null: false, foreign_key: true
      t.timestamps
    end
  end
end
