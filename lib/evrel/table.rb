# frozen_string_literal: true

module Evrel
  # Partition tables.
  module Table
    # @param disk [Disk]
    # @return [Table::Gpt, nil] nil where the disk has no table that is known
    # @raise [Damaged] where there is a table that cannot be trusted
    def self.read(disk) = Gpt.read(disk)
  end
end
