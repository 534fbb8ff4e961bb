# frozen_string_literal: true

module Evrel
  module Volume
    # One record of the master file table (layout.h of ntfs-3g, MFT_RECORD).
    class NtfsRecord
      IN_USE = 0x1
      DIRECTORY = 0x2

      attr_reader :number, :sequence, :flags, :base, :attributes

      # Puts back the last two bytes of each 512, which the update sequence
      # replaced, and finds a block that was only half written.
      # @param bytes [String] a record or an index block
      # @param magic [String] "FILE" or "INDX"
      # @return [String] a mended copy
      # @raise [Damaged]
      def self.mended(bytes, magic, where)
        raise Damaged.new("#{where} does not begin with #{magic}", where:) unless bytes.start_with?(magic)

        offset, count = bytes.unpack('@4vv')
        unless count == (bytes.bytesize / 512) + 1 && offset + (count * 2) <= bytes.bytesize
          raise Damaged.new("#{where} has an update sequence of #{count}", where:)
        end

        mend(bytes.dup, bytes.byteslice(offset, count * 2).unpack('v*'), where)
      end

      def self.mend(copy, sequence, where)
        mark, *kept = sequence
        kept.each_with_index do |value, index|
          at = (index * 512) + 510
          raise Damaged.new("#{where} was written only in part", where:) unless copy.unpack1("@#{at}v") == mark

          copy[at, 2] = [value].pack('v')
        end
        copy
      end
      private_class_method :mend

      # @param bytes [String] as on the disk
      # @param number [Integer]
      # @raise [Damaged]
      def initialize(bytes, number)
        @number = number
        @where = "MFT record #{number}"
        @bytes = self.class.mended(bytes, 'FILE', @where)
        # sequence 0x10, offset of the first attribute 0x14, flags 0x16, base record 0x20
        @sequence, first, @flags, @base = @bytes.unpack('@16v@20vv@32Q<')
        @attributes = split(first)
      end

      def in_use? = flags.anybits?(IN_USE)
      def directory? = flags.anybits?(DIRECTORY)

      private

      def split(at)
        found = []
        while at + 8 <= @bytes.bytesize
          type, length = @bytes.unpack("@#{at}VV")
          return found if type == NtfsAttribute::END_MARK
          if length < 24 || (length % 8).nonzero? || at + length > @bytes.bytesize
            raise Damaged.new("#{@where} has an attribute of #{length} bytes", where: @where)
          end

          found << NtfsAttribute.new(@bytes.byteslice(at, length), @where)
          at += length
        end
        raise Damaged.new("#{@where} has no end", where: @where)
      end
    end
  end
end
