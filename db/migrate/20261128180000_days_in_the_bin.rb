# frozen_string_literal: true

# Days on which an image that was given up was seen to lie in the bin: a clock
# that is set wrong makes no days.
class DaysInTheBin < ActiveRecord::Migration[7.2]
  def change
    change_table :images, bulk: true do |table|
      table.integer :bin_days, null: false, default: 0
      table.date :bin_day
    end
  end
end
