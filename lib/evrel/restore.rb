# frozen_string_literal: true

module Evrel
  # Bringing an image onto a disk.
  module Restore
    # What a write is doing. order is the id of an Order, part the number of a
    # partition or nil; done and total are bytes within the order, written and
    # to_write bytes of the whole write, speed is bytes per second of late.
    Progress = Struct.new(:order, :part, :done, :total, :written, :to_write, :speed, keyword_init: true)

    # orders: Outcome of each, in order; mismatches: places that did not read
    # back as they should, as hashes with offset, cluster and part.
    Result = Struct.new(:orders, :written, :compared, :mismatches, :read_back, :resumed, keyword_init: true) do
      # @return [Boolean] read back from the disk, and every cluster matched
      def verified? = read_back && mismatches.empty?
    end

    # What became of one order: seconds and bytes.
    Outcome = Struct.new(:id, :seconds, :bytes, :resumed, keyword_init: true)
  end
end
