# frozen_string_literal: true

module Evrel
  module Startup
    class BootStore
      # Where something lies, as an element of a store says it. Kind at byte 16
      # (6: a partition); then for a GPT disk the partition's GUID at 32, the kind
      # of table at 52 (0: GPT, 1: MBR) and the disk's GUID at 56; for an MBR the
      # partition's byte offset at 32, and the disk's signature at 56.
      class Device
        PARTITION = 6
        PLACE = 32
        FORM = 52
        DISK = 56
        LENGTH = 72 # bytes of one that names a partition, at the least

        # @return [Integer, nil] byte of the store at which it begins
        attr_reader :at

        # @return [String] as it is there
        attr_reader :bytes

        def initialize(bytes, at)
          @bytes = bytes
          @at = at
        end

        # @return [Boolean] others say nothing of a partition, such as where the program itself was started from
        def partition? = bytes.bytesize >= LENGTH && bytes.byteslice(16, 4).unpack1('V') == PARTITION

        # @return [Boolean] whether it names a partition of a GPT
        def gpt? = partition? && bytes.byteslice(FORM, 4).unpack1('V').zero?

        # @return [String, nil] of the partition, on a GPT disk
        def guid = gpt? ? Guid.from_bytes(bytes.byteslice(PLACE, 16)) : nil

        # @return [Integer, nil] byte of the disk at which the partition begins, on an MBR disk
        def offset = partition? && !gpt? ? bytes.byteslice(PLACE, 8).unpack1('Q<') : nil

        # @return [String, nil] identity of the disk
        def disk
          return unless partition?

          gpt? ? Guid.from_bytes(bytes.byteslice(DISK, 16)) : format('%08x', bytes.byteslice(DISK, 4).unpack1('V'))
        end

        # @param table [Table::Gpt, Table::Mbr]
        # @return [Table::Partition, nil] the one that it names
        def part(table)
          return table.partitions.find { |one| one.guid.casecmp?(guid) } if gpt?

          table.partitions.find { |one| one.start == offset } if offset && table.kind == 'mbr' && table.guid == disk
        end

        # @param part [Table::Partition]
        # @param table [Table::Gpt, Table::Mbr] that it stands in
        # @return [String] the same bytes, naming that partition
        def naming(part, table)
          place, form, disk = if table.kind == 'gpt'
                                [Guid.to_bytes(part.guid), 0, Guid.to_bytes(table.guid)]
                              else
                                [[part.start, 0].pack('Q<2'), 1, [table.guid.hex].pack('V').ljust(16, "\0".b)]
                              end
          bytes.dup.tap do |changed|
            changed[PLACE, 16] = place
            changed[FORM, 4] = [form].pack('V')
            changed[DISK, 16] = disk
          end
        end

        def to_s = gpt? ? "partition #{guid}" : "the partition at byte #{offset} of disk #{disk}"
      end
    end
  end
end
