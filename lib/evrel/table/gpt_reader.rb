# frozen_string_literal: true

module Evrel
  module Table
    # Reads a GPT and distrusts it: checksums first, then every number against
    # the disk's real size.
    class GptReader
      def initialize(disk)
        @disk = disk
        @findings = []
      end

      # @return [Gpt, nil]
      # @raise [Damaged]
      def read
        @sector = sector_of_table or return nil

        primary = copy(1, :primary)
        backup = copy((@disk.size / @sector) - 1, :backup)
        raise Damaged.new("both copies of the partition table are broken: #{@findings.join('; ')}", where: 'GPT') unless primary || backup

        @findings << 'the two copies of the table differ' if primary && backup && !same?(primary, backup)
        build(primary || backup, primary ? :primary : :backup)
      end

      private

      Copy = Struct.new(:header, :entries)

      # A table may be made for another sector size than the disk claims (an
      # image in a plain file does not tell): the signature decides.
      def sector_of_table
        sizes = [@disk.logical_sector, *Gpt::SECTORS].uniq
        sizes.find { |size| signature_at?(size) } ||
          sizes.find { |size| signature_at?(((@disk.size / size) - 1) * size) }
      end

      def signature_at?(offset)
        offset.positive? && offset + 512 <= @disk.size && @disk.read(offset, 8) == Gpt::SIGNATURE
      end

      def copy(lba, name)
        header = header_at(lba)
        Copy.new(header, entries_of(header))
      rescue Damaged => e
        @findings << "#{name} copy: #{e.message}"
        nil
      end

      def header_at(lba)
        raise damaged('the disk is too small for it', lba) if (lba + 1) * @sector > @disk.size

        bytes = @disk.read(lba * @sector, @sector)
        header = GptHeader.read(bytes)
        raise damaged('no signature', lba) unless header.signature == Gpt::SIGNATURE
        raise damaged("header size #{header.header_size}", lba) unless header.header_size.between?(92, @sector)

        check_header_crc(bytes, header, lba)
        raise damaged("it says that it is sector #{header.my_lba}", lba) unless header.my_lba == lba

        header
      end

      def check_header_crc(bytes, header, lba)
        blanked = bytes.byteslice(0, header.header_size)
        blanked[16, 4] = "\0\0\0\0".b
        raise damaged('header checksum does not match', lba) unless Zlib.crc32(blanked) == header.header_crc
      end

      def entries_of(header)
        size = header.entry_count * header.entry_size
        unless header.entry_size >= 128 && (header.entry_size % 8).zero? && size.between?(1, Gpt::LARGEST_ENTRIES)
          raise damaged("#{header.entry_count} entries of #{header.entry_size} bytes", header.my_lba)
        end

        offset = header.entries_lba * @sector
        raise damaged('entries leave the disk', header.entries_lba) if offset + size > @disk.size

        bytes = @disk.read(offset, size)
        raise damaged('entries checksum does not match', header.entries_lba) if Zlib.crc32(bytes) != header.entries_crc

        bytes
      end

      def same?(one, two)
        one.entries == two.entries && one.header.disk_guid == two.header.disk_guid
      end

      def build(copy, source)
        header = copy.header
        check_usable(header)
        Gpt.new(sector: @sector, guid: Guid.from_bytes(header.disk_guid), first_usable: header.first_usable_lba.to_i,
                last_usable: header.last_usable_lba.to_i, partitions: partitions(copy),
                entry_count: header.entry_count.to_i, boot_code: @disk.read(0, 440),
                findings: @findings, source:).with_hybrid(Hybrid.in(@disk.read(0, 512)))
      end

      def check_usable(header)
        # A table copied onto a larger or smaller disk keeps its old limits; a
        # smaller one can then not hold what the table claims.
        entries = ((header.entry_count * Gpt::ENTRY_SIZE) + @sector - 1) / @sector
        return if header.first_usable_lba.between?(2 + entries, header.last_usable_lba) &&
                  header.last_usable_lba < (@disk.size / @sector) - 1 - entries

        raise damaged("usable sectors #{header.first_usable_lba} to #{header.last_usable_lba} " \
                      "on a disk of #{@disk.size / @sector} sectors", header.my_lba)
      end

      def partitions(copy)
        size = copy.header.entry_size
        found = (0...copy.header.entry_count).filter_map do |index|
          partition(index + 1, copy.entries.byteslice(index * size, size))
        end
        found.each { |part| check_range(part, copy.header) }
        Table.check_overlaps(found)
        found
      end

      def partition(number, bytes)
        type = Guid.from_bytes(bytes.byteslice(0, 16))
        return if type == Guid::ZERO

        first, last, attributes = bytes.unpack('@32Q<3')
        Partition.new(number:, type:, guid: Guid.from_bytes(bytes.byteslice(16, 16)), first_lba: first,
                      last_lba: last, attributes:, name: name_of(bytes.byteslice(56, 72)), sector: @sector)
      end

      def name_of(bytes)
        text = bytes.force_encoding('UTF-16LE').encode('UTF-8', invalid: :replace, undef: :replace)
        text.split("\0", 2).first.to_s.scrub
      end

      def check_range(part, header)
        return if part.first_lba.between?(header.first_usable_lba, part.last_lba) &&
                  part.last_lba <= header.last_usable_lba

        raise Damaged.new("partition #{part.number} covers sectors #{part.first_lba} to #{part.last_lba}, outside of " \
                          "the usable #{header.first_usable_lba} to #{header.last_usable_lba}",
                          where: "partition #{part.number}")
      end

      def damaged(message, lba) = Damaged.new(message, where: "GPT, sector #{lba}")
    end
  end
end
