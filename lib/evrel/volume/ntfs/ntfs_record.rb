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
      def self.mended(bytes, magic, where) = mend_in_place(bytes.dup, magic, where)

      # The same, without a copy.
      def self.mend_in_place(bytes, magic, where)
        raise Damaged.new("#{where} does not begin with #{magic}", where:) unless bytes.start_with?(magic)

        offset, count = bytes.unpack('vv', offset: 4)
        unless count == (bytes.bytesize / 512) + 1 && offset + (count * 2) <= bytes.bytesize
          raise Damaged.new("#{where} has an update sequence of #{count}", where:)
        end

        mend(bytes, offset, count, where)
      end
      private_class_method :mend_in_place

      # The first two bytes of the sequence are what stands at the ends, the others what belongs there.
      def self.mend(copy, offset, count, where)
        low = copy.getbyte(offset)
        high = copy.getbyte(offset + 1)
        index = 1
        while index < count
          at = (index * 512) - 2
          raise Damaged.new("#{where} was written only in part", where:) unless copy.getbyte(at) == low && copy.getbyte(at + 1) == high

          copy.setbyte(at, copy.getbyte(offset + (index * 2)))
          copy.setbyte(at + 1, copy.getbyte(offset + (index * 2) + 1))
          index += 1
        end
        copy
      end
      private_class_method :mend

      # Yields offset and length of each attribute.
      # @param bytes [String] a mended record
      # @param at [Integer] offset of the first one
      # @raise [Damaged]
      def self.walk(bytes, at, where)
        while at + 8 <= bytes.bytesize
          type, length = bytes.unpack('VV', offset: at)
          return if type == NtfsAttribute::END_MARK
          if length < 24 || length.anybits?(7) || at + length > bytes.bytesize
            raise Damaged.new("#{where} has an attribute of #{length} bytes", where:)
          end

          yield at, length
          at += length
        end
        raise Damaged.new("#{where} has no end", where:)
      end

      # Yields each attribute of a record that lies outside of it; the others are not looked at.
      # @param bytes [String] a record as on the disk; it is mended
      # @param number [Integer]
      # @raise [Damaged]
      def self.each_outside(bytes, number)
        where = "MFT record #{number}"
        whole = mend_in_place(bytes, 'FILE', where)
        walk(whole, whole.unpack1('v', offset: 20), where) do |at, length|
          yield NtfsAttribute.new(whole.byteslice(at, length), where) unless whole.getbyte(at + 8).zero?
        end
      end

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
        self.class.walk(@bytes, at, @where) { |offset, length| found << NtfsAttribute.new(@bytes.byteslice(offset, length), @where) }
        found
      end
    end
  end
end
