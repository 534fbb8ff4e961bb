# frozen_string_literal: true

# What was noted of each bench, so that open pages are told when it changes.
class BenchStates < ActiveRecord::Migration[7.2]
  def change
    create_table :bench_states do |t|
      t.string :bench, null: false, limit: 60, index: { unique: true }
      t.string :revision, null: false, limit: 500
      t.datetime :updated_at, null: false
    end
  end
end
