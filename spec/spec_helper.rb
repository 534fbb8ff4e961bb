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

  # A folder for every example, gone afterwards.
  # In memory where many disks are written: nothing waits for the real one.
  config.around do |example|
    within = '/dev/shm' if example.metadata[:in_memory] && File.writable?('/dev/shm')
    Dir.mktmpdir('evrel-spec', within) do |folder|
      @folder = folder
      example.run
    end
  end
end
