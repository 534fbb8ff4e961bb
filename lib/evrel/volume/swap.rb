# frozen_string_literal: true

module Evrel
  module Volume
    # Linux swap space (mkswap(8)): a header in the first page, the signature
    # in its last ten bytes. What was swapped out is worth nothing after a
    # restore: only the header is kept.
    class Swap
      SIGNATURE = 'SWAPSPACE2'
      PAGES = [4096, 8192, 16_384, 65_536].freeze

      attr_reader :size, :block_size, :label, :uuid

      def self.recognise(disk)
        page = PAGES.find { |size| disk.size >= size && disk.read(size - 10, 10) == SIGNATURE }
        new(disk, page) if page
      end

      def initialize(disk, page)
        @block_size = page
        # union swap_header, <linux/swap.h>: version and last page at 1024, UUID at 1036, label at 1052
        _, last_page = disk.read(1024, 8).unpack('V2')
        @size = (last_page + 1) * page
        raise Damaged.new("swap space of #{size} bytes in #{disk.size}", where: 'swap header') if size > disk.size

        @uuid = Guid.from_plain_bytes(disk.read(1036, 16))
        @label = disk.read(1052, 16).unpack1('Z*').force_encoding('UTF-8').scrub
        @label = nil if @label.empty?
      end

      def kind = 'swap'
      def clean? = true
      def browsable? = false
      def used_bytes = block_size

      def used_extents
        return enum_for(:used_extents) unless block_given?

        yield 0, block_size
      end
    end
  end
end
