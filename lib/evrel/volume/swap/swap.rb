# frozen_string_literal: true

module Evrel
  module Volume
    # Linux swap space (mkswap(8)): a header in the first page, the signature
    # in its last ten bytes. What was swapped out is worth nothing after a
    # restore: only the header is kept. Where a system that sleeps has left its
    # memory there, or the header is of another kind, all of it is kept.
    class Swap
      include Told

      LEAST = MIB
      SIGNATURE = 'SWAPSPACE2'
      OLD = 'SWAP-SPACE'
      # <linux/suspend.h> and its like: what a sleeping system puts in the signature's place.
      ASLEEP = %w[S1SUSPEND S2SUSPEND ULSUSPEND LINHIB0001].freeze
      ASLEEP_FIRST = ['edc302e99856e50c'].pack('H*').freeze
      VERSION = 1
      PAGES = [4096, 8192, 16_384, 65_536].freeze

      attr_reader :size, :block_size, :label, :uuid

      # @return [Swap, Opaque, nil]
      # @raise [Damaged]
      def self.recognise(disk)
        return whole(disk, hibernated: true) if disk.size >= 4096 && disk.read(0, 8) == ASLEEP_FIRST

        PAGES.each do |size|
          mark = disk.size >= size ? disk.read(size - 10, 10) : ''
          return of_page(disk, size) if mark == SIGNATURE
          return whole(disk) if mark == OLD
          return whole(disk, hibernated: true) if mark.start_with?(*ASLEEP)
        end
        nil
      end

      # union swap_header, <linux/swap.h>: version and last page at 1024; another byte order is not read.
      def self.of_page(disk, page)
        version, last_page = disk.read(1024, 8).unpack('V2')
        version == VERSION && last_page.positive? ? new(disk, page) : whole(disk)
      end

      def self.whole(disk, hibernated: false)
        Opaque.new(disk, kind: 'swap', size: disk.size, block_size: 4096, hibernated:)
      end
      private_class_method :of_page, :whole

      def initialize(disk, page)
        @disk = disk
        @block_size = page
        # last page at 1028, UUID at 1036, label at 1052
        _, last_page = disk.read(1024, 8).unpack('V2')
        @size = (last_page + 1) * page
        raise Damaged.new("swap space of #{size} bytes in #{disk.size}", where: 'swap header') if size > disk.size

        @uuid = Guid.from_plain_bytes(disk.read(1036, 16))
        @label = disk.read(1052, 16).unpack1('Z*').force_encoding('UTF-8').scrub
        @label = nil if @label.empty?
      end

      def kind = 'swap'
      def map = 'the header of the swap space'
      def doubts = []
      def kept_whole? = false
      def hibernated? = false
      def clean? = true
      def browsable? = false
      def used_bytes = block_size
      def resizer = SwapResizer
      def least_sector = block_size
      def least_size = Limits.new(least: LEAST, most: nil, resizer:)

      def used_extents
        return enum_for(:used_extents) unless block_given?

        yield 0, block_size
      end
    end
  end
end
