# frozen_string_literal: true

# Which parts of an image the index of file names does not cover.
class UnsearchedParts < ActiveRecord::Migration[7.2]
  def up = add_column(:images, :unsearched, :json)

  def down = raise(ActiveRecord::IrreversibleMigration)
end
