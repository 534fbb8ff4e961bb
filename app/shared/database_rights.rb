# frozen_string_literal: true

# What the account may do with which pages and workers reach the database: read
# all of it, change rows, and of the record only add to it. Tables, and what
# guards them, are changed by another account (Config.owner), when they are
# brought up to date.
module DatabaseRights
  ADDED_ONLY = %w[events].freeze
  OF_MIGRATIONS = %w[ar_internal_metadata schema_migrations].freeze
  # As Setup::Database makes the account.
  HOSTS = %w[127.0.0.1 localhost].freeze

  module_function

  # As the owner: gives them, for every table that is there.
  def give
    connection = ActiveRecord::Base.connection
    HOSTS.map { |host| "#{connection.quote(Config.database[:username])}@#{connection.quote(host)}" }.each do |account|
      of_tables(connection.tables).each { |table, rights| connection.execute("GRANT #{rights} ON `#{table}` TO #{account}") }
    end
  end

  # @param tables [Array<String>]
  # @return [Hash{String=>String}] table → rights, beside reading it
  def of_tables(tables)
    (tables - OF_MIGRATIONS).to_h { |table| [table, ADDED_ONLY.include?(table) ? 'INSERT' : 'INSERT, UPDATE, DELETE'] }
  end
end
