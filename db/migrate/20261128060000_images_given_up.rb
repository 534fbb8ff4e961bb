# frozen_string_literal: true

# Images that a lead has given up: they stay on their shelf, and are offered to
# nobody any more.
class ImagesGivenUp < ActiveRecord::Migration[7.2]
  def change
    change_table :images, bulk: true do |t|
      t.datetime :given_up_at
      t.string :given_up_because, limit: 200
    end
  end
end
