# frozen_string_literal: true

module Evrel
  module Volume
    # One attribute of an MFT record (layout.h of ntfs-3g, ATTR_RECORD), taken
    # out of the record's bytes.
    #
    #   offset 0   type, 4 bytes          offset 9   length of the name
    #   offset 4   length, 4 bytes        offset 10  offset of the name
    #   offset 8   1: not resident        offset 12  flags
    #   resident:      16 length of the value, 20 its offset
    #   not resident:  16 first and 24 last cluster, 32 offset of the runs, 34 clusters per
    #                  compressed unit (a power of two), 48 size, 56 initialised size
    class NtfsAttribute
      LIST = 0x20
      FILE_NAME = 0x30
      VOLUME_NAME = 0x60
      VOLUME_INFORMATION = 0x70
      DATA = 0x80
      INDEX_ROOT = 0x90
      INDEX_ALLOCATION = 0xA0
      BITMAP = 0xB0
      REPARSE_POINT = 0xC0
      END_MARK = 0xFFFF_FFFF
      COMPRESSED = 0x0001
      ENCRYPTED = 0x4000
      # A run of clusters; lcn is nil where it is a hole.
      Run = Struct.new(:vcn, :lcn, :count)

      attr_reader :type, :flags

      # @param bytes [String] the whole attribute
      # @param where [String] for messages
      def initialize(bytes, where)
        @bytes = bytes
        @where = where
        @type, _, @resident, @name_length, @name_offset, @flags = bytes.unpack('VVCCvv')
      end

      # @return [String] empty for most of them
      def name = @name ||= @name_length.zero? ? '' : Utf16.text(@bytes.byteslice(@name_offset, @name_length * 2))

      def resident? = @resident.zero?
      def compressed? = flags.anybits?(COMPRESSED)
      def encrypted? = flags.anybits?(ENCRYPTED)

      # @return [String] of a resident attribute
      def value
        length, offset = @bytes.unpack('@16Vv')
        raise damaged('has a value outside of itself') if offset + length > @bytes.bytesize

        @bytes.byteslice(offset, length)
      end

      def first_vcn = resident? ? 0 : @bytes.unpack1('@16Q<')
      def unit_bits = @bytes.unpack1('@34v')

      # @return [Integer] bytes
      def size = resident? ? value.bytesize : @bytes.unpack1('@48Q<')

      # @return [Integer] bytes that were ever written; the rest reads as zeros
      def initialised = @bytes.unpack1('@56Q<')

      # The runs: each begins with a byte that gives the lengths of its two
      # numbers, count and distance from the run before.
      # @param clusters [Integer] of the volume
      # @return [Array<Run>]
      def runs(clusters)
        at = @bytes.unpack1('@32v')
        vcn = first_vcn
        lcn = 0
        found = []
        while (head = @bytes.getbyte(at)) && head.positive?
          count_size = head & 0x0F
          step_size = head >> 4
          count = number(at + 1, count_size, signed: false)
          step = step_size.zero? ? nil : number(at + 1 + count_size, step_size, signed: true)
          lcn += step if step
          check(count, step && lcn, clusters)
          found << Run.new(vcn, step && lcn, count)
          vcn += count
          at += 1 + count_size + step_size
        end
        found
      end

      private

      def number(at, size, signed:)
        raise damaged('has runs that end early') if at + size > @bytes.bytesize || size > 8

        value = last = 0
        size.times do |index|
          last = @bytes.getbyte(at + index)
          value |= last << (index * 8)
        end
        signed && last >= 0x80 ? value - (1 << (size * 8)) : value
      end

      # A hole may be longer than the volume, but not than a file can be.
      def check(count, lcn, clusters)
        return if count.positive? && (lcn ? lcn >= 0 && lcn + count <= clusters : count < 1 << 44)

        raise damaged("has a run of #{count} clusters at cluster #{lcn || 'none'} of #{clusters}")
      end

      def damaged(message) = Damaged.new("#{@where}: attribute #{format('0x%x', type)} #{message}", where: @where)
    end
  end
end
