# frozen_string_literal: true

# How much of an image's disk could not be read when it was taken.
class UnreadSectors < ActiveRecord::Migration[7.2]
  def change = add_column(:images, :unread_sectors, :integer, null: false, default: 0)
end
