# frozen_string_literal: true

# How a write is to be done is called its options, and leaving out what the
# target has already, skip_identical.
class WriteOptions < ActiveRecord::Migration[7.2]
  def up
    rename_column :dockets, :write_manner, :write_options
    rename_column :writes, :manner, :options
    { dockets: :write_options, writes: :options }.each do |table, column|
      execute "UPDATE #{table} SET #{column} = REPLACE(#{column}, '\"differing\"', '\"skip_identical\"')"
    end
  end

  def down = raise(ActiveRecord::IrreversibleMigration)
end
