# frozen_string_literal: true

require 'openssl'

module Evrel
  module Layout
    # The table that a target gets for parts at their places.
    class Tables
      # What a type of one kind of table is in the other; sfdisk(8) lists both.
      TO_GPT = { '0x83' => '0fc63daf-8483-4772-8e79-3d69d8477de4', '0x82' => '0657fd6d-a4ab-43c4-84e5-0933c84b4f4f',
                 '0x8e' => 'e6d6d379-f507-44c2-a23c-238f2a3df928', '0xfd' => 'a19d880f-05fc-4d3b-a006-743f0f84911e',
                 '0xef' => 'c12a7328-f81f-11d2-ba4b-00a0c93ec93b', '0x27' => 'de94bba4-06d1-4d40-a16a-bfd50179d6ac' }.freeze
      BASIC_DATA = 'ebd0a0a2-b9e5-4433-87c0-68b6b72699c7'
      LINUX = '0x83'
      FROM_VOLUME = { 'ntfs' => '0x07', 'exfat' => '0x07', 'fat32' => '0x0c', 'fat16' => '0x0e' }.freeze

      # Whether a part is logical in an MBR. Of more than four parts of a GPT the fourth and all behind it become so.
      # @param kind [String] of the table that the part comes from
      # @param parts [Array<Part>] in the order of the disk
      def self.logical?(kind, parts, part)
        return part.logical if kind == 'mbr'

        parts.size > 4 && parts.index { |one| one.number == part.number } >= 3
      end

      # An identity that is the same for the same disk and wish: a GUID of version 8 (RFC 9562, 5.8) over what it is of.
      # @param what [Array]
      # @return [String]
      def self.made(what)
        hex = OpenSSL::Digest::SHA256.hexdigest(what.join("\0"))
        "#{hex[0, 8]}-#{hex[8, 4]}-8#{hex[13, 3]}-a#{hex[17, 3]}-#{hex[20, 12]}"
      end

      # The type that a part has in a table.
      # @param part [Part]
      # @param from [String] 'gpt' or 'mbr': the kind of table that its type is of
      # @param to [String] the kind that it goes into
      # @return [String]
      def self.type(part, from:, to:)
        return part.type if from == to
        return TO_GPT.fetch(part.type, BASIC_DATA) if to == 'gpt'

        TO_GPT.invert[part.type] || FROM_VOLUME.fetch(part.kind, LINUX)
      end

      # @param source [Source]
      # @param target [Target]
      # @param wish [Wish]
      # @param kind [String] 'gpt' or 'mbr'
      # @param unit [Integer] bytes of the alignment
      def initialize(source, target, wish, kind, unit)
        @source = source
        @target = target
        @wish = wish
        @kind = kind
        @unit = unit
      end

      # @param placed [Array<Arrange::Placed>] in the order of the disk, on whole sectors
      # @return [Table::Gpt, Table::Mbr]
      # @raise [DoesNotFit]
      def build(placed)
        return @source.table.for_disk(@target.size) if untouched?(placed)

        @kind == 'gpt' ? gpt(placed) : mbr(placed)
      end

      # @return [Hash] number in the image → number on the target
      def numbers(placed)
        return placed.to_h { |one| [one.number, one.number] } if @kind == 'gpt'

        logical = placed.select { |one| logical?(placed, one) }
        primary = (placed - logical).each_with_index.to_h { |one, index| [one.number, @source.kind == 'mbr' ? one.number : index + 1] }
        primary.merge(logical.each_with_index.to_h { |one, index| [one.number, 5 + index] })
      end

      # @return [String] the disk's identity: kept, or made of what the wish is of
      def disk_guid
        kept = @source.kind == @kind && !@wish.renew?
        return @source.table.guid if kept

        @kind == 'gpt' ? made('disk') : made('disk')[0, 8]
      end

      private

      # As in the image on the same kind of sectors: the very same table.
      def untouched?(placed)
        @source.kind == @kind && @source.sector == @target.sector && !@wish.renew? &&
          placed.none? { |one| one.moves? || one.resized? } &&
          placed.map(&:number).sort == @source.table&.partitions.to_a.map(&:number).sort
      end

      def gpt(placed)
        table = @source.table if @source.kind == 'gpt'
        count = table&.entry_count || Table::Gpt::ENTRY_COUNT
        entries = ((count * Table::Gpt::ENTRY_SIZE) + @target.sector - 1) / @target.sector
        partitions = placed.map { |one| gpt_partition(one) }.sort_by(&:number)
        Table::Gpt.new(sector: @target.sector, guid: disk_guid, first_usable: 2 + entries,
                       last_usable: (@target.size / @target.sector) - entries - 2,
                       partitions:, entry_count: [count, partitions.map(&:number).max.to_i].max, boot_code: boot_code(placed))
                  .with_hybrid(hybrid(placed))
      end

      def gpt_partition(one)
        part = one.part
        type = Tables.type(part, from: @source.kind, to: 'gpt')
        attributes = @source.kind == 'gpt' ? part.attributes : 0
        guid = @source.kind == 'gpt' && !@wish.renew? ? part.guid : made("partition #{part.number}")
        partition(one, number: part.number, type:, guid:, attributes:, name: part.name)
      end

      # The code before a GPT names the sector at which a loader's own partition begins (GRUB: boot.S, kernel sector at 0x5C).
      def boot_code(placed)
        return "\0".b * 440 unless @source.kind == 'gpt'

        code = @source.table.boot_code.dup
        at = code.unpack1('@92Q<')
        moved = placed.find { |one| one.part.type == Table::Types::BIOS_BOOT && one.part.start / @source.sector == at }
        code[92, 8] = [moved.start / @target.sector].pack('Q<') if moved
        code
      end

      def hybrid(placed)
        return unless @source.kind == 'gpt' && @source.table.hybrid

        Table::Hybrid.moved(@source.table.hybrid, placed.to_h do |one|
          [one.part.start / @source.sector, [one.start / @target.sector, (one.end / @target.sector) - 1]]
        end)
      end

      def mbr(placed)
        signature = disk_guid.hex
        numbers = numbers(placed)
        partitions = placed.map do |one|
          number = numbers.fetch(one.number)
          attributes = @source.kind == 'mbr' ? one.part.attributes : 0
          type = Tables.type(one.part, from: @source.kind, to: 'mbr')
          partition(one, number:, type:, guid: Table::Mbr.partition_guid(signature, number), attributes:,
                         name: '')
        end
        boot_code = @source.kind == 'mbr' ? @source.table.records.first.bytes : ''
        Table::MbrBuilder.new(sector: @target.sector, signature:, partitions:, boot_code:,
                              disk_size: @target.size, extended_type: extended_type, gap: [@unit / @target.sector, 1].max).build
      end

      def extended_type = (@source.table.extended&.type if @source.kind == 'mbr') || '0x0f'

      def logical?(placed, one) = Tables.logical?(@source.kind, placed.map(&:part), one.part)

      def partition(one, **fields)
        Table::Partition.new(first_lba: one.start / @target.sector, last_lba: (one.end / @target.sector) - 1, sector: @target.sector,
                             **fields)
      end

      def made(what) = Tables.made([@source.table.guid, @target.size, @wish.salt, @kind, what])
    end
  end
end
