# frozen_string_literal: true

module Evrel
  module Disk
    # The beginning of a disk of which the rest is not at hand: it is as large
    # as its own table says, and zeros stand for what is not known.
    class Head
      include Disk

      LARGEST = 1 << 44 # bytes; no more than a volume could ever be

      attr_reader :size

      # @param bytes [String] the beginning
      def initialize(bytes)
        @bytes = bytes
        @size = [claimed, bytes.bytesize].max / 512 * 512
      end

      def logical_sector = 512
      def physical_sector = 4096

      def read_bytes(offset, length)
        (@bytes.byteslice(offset, length) || ''.b).ljust(length, "\0".b)
      end

      def extents
        return enum_for(:extents) unless block_given?

        yield 0, @bytes.bytesize / 512 * 512 if @bytes.bytesize >= 512
      end

      private

      # GPT: sector of the backup copy, 32 bytes into the header. MBR: the end of
      # the last partition. A volume says by itself how large it is.
      def claimed
        Table::Gpt::SECTORS.each do |sector|
          next unless @bytes.byteslice(sector, 8) == Table::Gpt::SIGNATURE

          last = @bytes.unpack1("@#{sector + 32}Q<")
          return (last + 1) * sector if last < LARGEST / sector
        end
        @size = LARGEST
        table = Table::Mbr.read(self, logical: false)
        table ? [*table.partitions.map(&:end), *(table.extended && [(table.extended.last_lba + 1) * table.sector])].max : LARGEST
      end
    end
  end
end
