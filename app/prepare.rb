# frozen_string_literal: true

require_relative 'boot'

# Brings the database's tables up to date, and builds the demo where nobody
# works yet: ruby app/prepare.rb [demo]. EVREL_DEMO=small builds a small one.
# Without it, a code is made for whoever becomes the first lead.
ActiveRecord::Base.establish_connection(Config.owner)
ActiveRecord::Migration.verbose = false
ActiveRecord::MigrationContext.new(File.join(Config::ROOT, 'db', 'migrate')).migrate
DatabaseRights.give if Config.own_database?
ActiveRecord::Base.establish_connection(Config.database)
if ARGV.first == 'demo' && Technician.none?
  # It is made in threads and processes beside each other.
  LOAD_ALL.call(api: false)
  LOAD_TABLES.call
  require_relative '../demo/scenario'
  Demo::Scenario.new(small: ENV['EVREL_DEMO'] == 'small').build
end
FirstLead.code
