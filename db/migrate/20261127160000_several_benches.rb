# frozen_string_literal: true

# What happens at a bench says at which: several may share the database.
class SeveralBenches < ActiveRecord::Migration[7.2]
  TABLES = %i[drive_sightings unplug_checks writes drive_tasks layout_tries trial_starts mends ticks].freeze

  def up
    TABLES.each { |table| named(table, :bench, null: false) }
    named(:drives, :last_bench, null: true)
  end

  def down
    TABLES.each { |table| remove_column table, :bench }
    remove_column :drives, :last_bench
  end

  private

  # Whatever there is so far was done at this one.
  def named(table, column, null:)
    add_column table, column, :string, limit: 60
    execute "UPDATE #{table} SET #{column} = #{quote(Config.bench)}"
    change_column_null table, column, null
  end
end
