# frozen_string_literal: true

# What a run takes by itself: drives that are unplugged and plugged in again, or
# the next blank ones.
class RunWatch < ActiveRecord::Migration[7.2]
  def change
    add_column :runs, :watch, :json
  end
end
