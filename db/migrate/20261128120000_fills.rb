# frozen_string_literal: true

# An image of the same drive that lacks places: a salvage takes over what it holds.
class Fills < ActiveRecord::Migration[7.2]
  def change
    add_reference :takings, :fills, foreign_key: { to_table: :images }
  end
end
