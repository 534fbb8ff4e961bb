# frozen_string_literal: true

# Whether somebody wants the names of the files inside a locked image in the search over all images.
class NamesAsked < ActiveRecord::Migration[7.2]
  def change
    add_column :images, :names_asked, :boolean, null: false, default: false
  end
end
