# frozen_string_literal: true

# Where an image lies on its shelf is a path; a place is where a computer stands.
class PathOfImages < ActiveRecord::Migration[7.2]
  def change
    rename_column :images, :place, :path
  end
end
