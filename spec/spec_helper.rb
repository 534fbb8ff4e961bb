# frozen_string_literal: true

$LOAD_PATH.unshift File.expand_path('../lib', __dir__)
require 'evrel'
require 'fileutils'
require 'open3'
require 'tmpdir'
require_relative '../stand_ins/disk'
Dir[File.join(__dir__, '{support,contracts}', '*.rb')].each { |file| require file }

RSpec.configure do |config|
  config.disable_monkey_patching!
  config.expect_with(:rspec) { |expectations| expectations.syntax = :expect }
  config.include Tools
  config.include Waiting
  config.include Disks
  config.include Users

  # A folder for every example, gone afterwards.
  # In memory, so that nothing waits for the real disk; what takes long takes room too.
  config.around do |example|
    within = '/dev/shm' if File.writable?('/dev/shm') && (example.metadata[:in_memory] || !Effort.all?)
    Dir.mktmpdir('evrel-spec', within) do |folder|
      @folder = folder
      example.run
    end
  end
end
