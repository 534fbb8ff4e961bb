# frozen_string_literal: true

require_relative 'boot'

# Brings the database's tables up to date, and builds the demo where there is
# none: ruby app/prepare.rb [demo]
ActiveRecord::Migration.verbose = false
ActiveRecord::MigrationContext.new(File.join(Config::ROOT, 'db', 'migrate')).migrate
if ARGV.first == 'demo' && Technician.none?
  require_relative '../demo/scenario'
  Demo::Scenario.new.build
end
