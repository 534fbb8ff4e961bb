# frozen_string_literal: true

# An image that is taken of a drive while a docket's write reads it.
class TakingsOnTheWay < ActiveRecord::Migration[7.2]
  def change
    add_reference :takings, :write, foreign_key: true
  end
end
