# frozen_string_literal: true

module Evrel
  module Volume
    # The 32-byte records of one FAT directory, with their long names
    # ("FAT32 File System Specification" 1.03, pages 22 to 32).
    class FatDirectory
      RECORD = 32
      READ_ONLY_TO_LABEL = 0x0F # attribute of a long-name record
      LABEL = 0x08
      DIRECTORY = 0x10
      # A directory holds 65,536 records at most (page 24).
      MOST_BYTES = 65_536 * RECORD

      def initialize(volume, entry)
        @volume = volume
        @parent = entry
      end

      # @return [Array<Entry>]
      def entries
        long = {}
        records.filter_map do |record|
          if long_name?(record)
            long[record.getbyte(0) & 0x3F] = record
            next
          end
          name = long_name(long, record)
          long = {}
          next if deleted?(record) || label?(record) || record.start_with?('.')

          entry(record, name || short_name(record))
        end
      end

      # What the entries claim, without what they are called.
      # @return [Array<(Integer, Integer, Boolean)>] first cluster, size in bytes, and whether it is a directory
      def claims
        records.filter_map do |record|
          first = record.getbyte(0)
          attributes = record.getbyte(11)
          # Deleted, a label or a piece of a long name, or "." and "..".
          next if first == 0xE5 || attributes.anybits?(LABEL) || first == 0x2E

          high, low, size = record.unpack('@20v@26vV')
          [@volume.bits == 32 ? (high << 16) | low : low, size, attributes.anybits?(DIRECTORY)]
        end
      end

      # @return [String, nil] 11 bytes
      def volume_label
        found = records.find { |record| !deleted?(record) && !long_name?(record) && label?(record) }
        found && name_of(found)
      end

      private

      def records
        bytes = bytes_of_directory
        found = []
        at = 0
        while at + RECORD <= bytes.bytesize && bytes.getbyte(at) != 0
          found << bytes.byteslice(at, RECORD)
          at += RECORD
        end
        found
      end

      def bytes_of_directory
        return @volume.fixed_root if @parent.ref.zero?

        most = [MOST_BYTES / @volume.cluster_size, 1].max
        clusters = @volume.cluster_chain(@parent.ref).first(most + 1)
        return clusters.map { |cluster| @volume.read_cluster(cluster) }.join if clusters.size <= most

        raise Damaged.new("directory #{@parent.path} is longer than a FAT directory can be", where: @parent.path)
      end

      def deleted?(record) = record.getbyte(0) == 0xE5
      def long_name?(record) = (record.getbyte(11) & 0x3F) == READ_ONLY_TO_LABEL
      def label?(record) = record.getbyte(11).anybits?(LABEL)

      def entry(record, name)
        high, time, date, low, size = record.unpack('@20v@22v3V')
        type = record.getbyte(11).anybits?(DIRECTORY) ? :directory : :file
        # Only FAT32 uses the high half of the first cluster.
        cluster = @volume.bits == 32 ? (high << 16) | low : low
        path = @parent.path == '/' ? "/#{name}" : "#{@parent.path}/#{name}"
        Entry.new(name:, path:, type:, size: type == :file ? size : 0, modified_at: time_of(date, time), ref: cluster)
      end

      # The pieces of a long name stand in front of their record, last first,
      # each with the checksum of the short name (page 28).
      def long_name(pieces, record)
        return if pieces.empty?

        sum = record.byteslice(0, 11).each_byte.reduce(0) { |acc, byte| (((acc & 1) << 7) + (acc >> 1) + byte) & 0xFF }
        return unless pieces.values.all? { |piece| piece.getbyte(13) == sum }

        units = pieces.sort.map { |_, p| p.byteslice(1, 10) + p.byteslice(14, 12) + p.byteslice(28, 4) }.join
        text = Utf16.text(units)
        Name.safe(text.split("\0", 2).first.to_s)
      end

      # The first letter 0xE5 would mean a deleted record: 0x05 stands for it.
      def name_of(record) = record.byteslice(0, 11).tap { |bytes| bytes.setbyte(0, 0xE5) if bytes.getbyte(0) == 0x05 }

      def short_name(record)
        bytes = name_of(record)
        lower = record.getbyte(12) # 0x08: the base is lower case, 0x10: the extension is
        base, extension = [bytes.byteslice(0, 8), bytes.byteslice(8, 3)].map do |part|
          part.encode('UTF-8', 'IBM437', invalid: :replace, undef: :replace).rstrip
        end
        base = base.downcase if lower.anybits?(0x08)
        extension = extension.downcase if lower.anybits?(0x10)
        Name.safe(extension.empty? ? base : "#{base}.#{extension}")
      end

      # Local time of whoever wrote it: FAT stores no zone.
      def time_of(date, time)
        Time.new(1980 + (date >> 9), (date >> 5) & 0x0F, date & 0x1F, time >> 11, (time >> 5) & 0x3F, (time & 0x1F) * 2)
      rescue ArgumentError
        nil
      end
    end
  end
end
