# frozen_string_literal: true

require 'zeitwerk'

# The heart of the job: disks, tables, volumes, images, and bringing one onto
# the other. Plain Ruby: nothing below this file knows of a web server, a
# database or the simulated bench.
module Evrel
  loader = Zeitwerk::Loader.for_gem
  loader.ignore("#{__dir__}/evrel/errors.rb")
  # Folders that only keep files of one idea together; they are no namespaces.
  loader.collapse(%w[parallel image/{qcow2,capture,check,foreign} volume/{ext,fat,ntfs,swap} startup/{chain,files,grub,trial}]
                    .map { |folders| "#{__dir__}/evrel/#{folders}" })
  loader.inflector.inflect('cli' => 'CLI')
  loader.setup
  LOADER = loader
  private_constant :LOADER

  # Loads all of it: what a process has loaded before it copies itself, no copy has to load for itself. Of use to whoever
  # has much read apart (see Apart).
  def self.load_all = LOADER.eager_load

  KIB = 1024
  MIB = 1024**2
  GIB = 1024**3
end

require_relative 'evrel/errors'
