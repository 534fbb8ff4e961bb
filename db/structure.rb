# frozen_string_literal: true

require_relative '../app/boot'

# The tables as all migrations leave them, for whoever reads them:
# `bundle exec ruby db/structure.rb` writes db/structure.sql from the database.
module Structure
  FILE = File.expand_path('structure.sql', __dir__)
  # Of the migrations themselves.
  OTHERS = %w[ar_internal_metadata schema_migrations].freeze

  module_function

  # @return [String] SQL that makes the tables, in the order of their names
  def dump
    tables = connection.tables.reject { |table| OTHERS.include?(table) || table.start_with?('kept_') }.sort
    "#{tables.map { |table| of(table) }.join("\n\n")}\n"
  end

  def of(table)
    "#{connection.select_one("SHOW CREATE TABLE `#{table}`").fetch('Create Table').gsub(/ AUTO_INCREMENT=\d+/, '')};"
  end

  def connection = ActiveRecord::Base.connection
  private_class_method :of, :connection
end

File.write(Structure::FILE, Structure.dump) if $PROGRAM_NAME == __FILE__
