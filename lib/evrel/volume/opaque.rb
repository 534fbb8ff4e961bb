# frozen_string_literal: true

module Evrel
  module Volume
    # File systems that are recognised by name, label and size, and whose
    # insides are not read: all that is not a hole counts as used.
    class Opaque
      include Unmapped

      attr_reader :kind, :label, :uuid, :size, :block_size, :used_bytes, :least_sector

      # @param disk [Disk]
      # @param kind [String]
      # @param size [Integer] bytes that it claims
      # @param used_bytes [Integer, nil] as its superblock counts; nil where it does not
      # @param hibernated [Boolean]
      # @param least_sector [Integer] bytes of the smallest unit that it counts in
      # @raise [Damaged] where it claims more than there is
      def initialize(disk, kind:, size:, block_size:, label: nil, uuid: nil, used_bytes: nil, hibernated: false,
                     least_sector: disk.logical_sector)
        raise Damaged.new("#{kind} of #{size} bytes in #{disk.size}", where: 'superblock') unless size.between?(1, disk.size)

        @disk = disk
        @kind = kind
        @size = size
        @block_size = block_size
        @label = label unless label.to_s.empty?
        @uuid = uuid
        @hibernated = hibernated
        @least_sector = least_sector
        @used_bytes = used_bytes&.clamp(0, size) || disk.extents.sum { |_, length| length }
      end

      def hibernated? = @hibernated
    end
  end
end
