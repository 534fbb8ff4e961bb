# frozen_string_literal: true

require 'active_record'
require 'active_support/all'
require 'delayed_job_active_record'
require 'trilogy'
require 'zeitwerk'

require_relative '../lib/evrel'
require_relative 'config'

loader = Zeitwerk::Loader.new
%w[shared models stations flows jobs].each do |folder|
  namespace = folder == 'stations' ? Object.const_set(:Stations, Module.new) : Object
  loader.push_dir("#{__dir__}/#{folder}", namespace:)
end
loader.push_dir("#{__dir__}/services")
loader.collapse("#{__dir__}/services/*")
loader.push_dir("#{__dir__}/api", namespace: Object.const_set(:Api, Module.new))
loader.setup

# Loads the core and the application, on request with the API. Who begins threads or copies of itself does that before: two threads
# that load the same file at the same time get in each other's way, and each copy would load it for itself.
LOAD_ALL = lambda do |api:|
  Evrel.load_all
  folders = %w[shared models services stations flows jobs]
  folders << 'api' if api
  folders.each { |folder| loader.eager_load_dir("#{__dir__}/#{folder}") }
end

# What Active Record keeps of the tables' columns is one hash for all threads, and this Ruby's may end the process where two
# threads add to it at the same moment: it is filled before there are threads. Where the database is away, whoever comes first does it.
LOAD_TABLES = lambda do
  ActiveRecord::Base.descendants.each { |model| model.define_attribute_methods unless model.abstract_class? }
rescue ActiveRecord::ActiveRecordError
  nil
end

Time.zone = nil
ActiveRecord.default_timezone = :utc
# What is printed of a record, in an error or anywhere, holds no password and no serial.
ActiveRecord::Base.filter_attributes = %i[password password_digest serial wwn identity_key drive_serial evidence decision]
ActiveRecord::Base.establish_connection(Config.database)
Delayed::Worker.max_attempts = 1
# A write may take hours; a job is taken again only when its worker is gone.
Delayed::Worker.max_run_time = 48.hours
Delayed::Worker.destroy_failed_jobs = false
Delayed::Worker.sleep_delay = 0.5
