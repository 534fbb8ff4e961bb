# frozen_string_literal: true

module Evrel
  # What makes each of many equal systems its own: its name and whatever else a
  # table says, in the files that hold them, and the identity that a system makes
  # anew at its first start.
  module Own
    # @param disk [Disk] with the system; only read
    # @param values [Hash{String=>String}] "name", and others that templates name
    # @param templates [Array<String>] absolute paths of files, besides those that hold the name of the computer
    # @return [Startup::Mend::Draft] byte for byte, as Startup::Mend::Execution carries it out
    # @raise [NotFound] where there is no system, or no such file
    # @raise [Refused] where a value cannot be what it is to be
    def self.draft(disk, values, templates: []) = Files.new(disk, templates).draft(values)
  end
end
