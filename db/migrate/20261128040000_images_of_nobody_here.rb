# frozen_string_literal: true

# Images of which somebody said that they are of no computer that is known here.
class ImagesOfNobodyHere < ActiveRecord::Migration[7.2]
  def change
    add_column :images, :nobodys, :boolean, null: false, default: false
  end
end
