# frozen_string_literal: true

module Evrel
  module Volume
    # Holds the file allocation table against all that can contradict it: its
    # copies, the media byte, the counters of FAT32, and the chain of every
    # directory and file.
    class FatProof
      PIECE = MIB
      # FSInfo (specification, page 21): signatures at 0 and 484, free clusters at 488.
      INFO = %w[RRaA rrAa].freeze
      UNKNOWN = 0xFFFF_FFFF

      # @param disk [Disk] the volume
      # @param volume [Fat]
      # @param table [FatTable] the one that counts
      def initialize(disk, volume, table)
        @disk = disk
        @volume = volume
        @table = table
        @seen = "\0".b * ((volume.cluster_count / 8) + 1)
      end

      # @return [Array<String>] what contradicts the table; empty where it is proved
      # @raise [Damaged, Unreadable]
      def doubts = [wrong_media || wrong_copy || wrong_count || wrong_chain].compact

      private

      def wrong_media
        media = @table[0] & 0xFF
        'the first entry of its table is not that of its kind of disk' unless media == @volume.boot.media
      end

      def wrong_copy
        first, *others = @volume.tables
        size = first.last
        others.each_with_index do |(offset, _), index|
          0.step(size - 1, PIECE) do |at|
            length = [PIECE, size - at].min
            return "its table and copy #{index + 1} of it differ" if
              @disk.read(first.first + at, length) != @disk.read(offset + at, length)
          end
        end
        nil
      end

      def wrong_count
        info = @volume.info or return
        return unless info.start_with?(INFO[0]) && info.byteslice(484, 4) == INFO[1]

        counted = info.unpack1('@488V')
        free = @volume.cluster_count - @volume.used_clusters
        "#{free} clusters are free by its table, #{counted} by its counter" unless [free, UNKNOWN].include?(counted)
      end

      # Every cluster is met once: two files that share one contradict each other.
      def wrong_chain
        queue = [@volume.entry('/')]
        take(queue.first) unless queue.first.ref.zero?
        while (directory = queue.pop)
          @volume.entries_of(directory).each do |entry|
            reason = wrong(entry)
            return reason if reason

            queue << entry if entry.directory?
          end
        end
        nil
      end

      def wrong(entry)
        return ("#{entry.path} has no clusters" unless entry.file? && entry.size.zero?) if entry.ref.zero?

        held = take(entry)
        return held if held.is_a?(String)

        "#{entry.path} has #{held} bytes in its chain, and says #{entry.size}" if held < entry.size
      end

      # @return [Integer, String] bytes of a chain, or why it is none
      def take(entry)
        count = 0
        @table.each_link(entry.ref) do |cluster|
          return "the chain of #{entry.path} leads to cluster #{cluster}, which is free or none" unless @table.used?(cluster)
          return "the chain of #{entry.path} shares cluster #{cluster} with another" if taken?(cluster)

          count += 1
        end
        count * @volume.cluster_size
      end

      # Marks it as taken.
      def taken?(cluster)
        byte, bit = cluster.divmod(8)
        known = @seen.getbyte(byte)
        @seen.setbyte(byte, known | (1 << bit))
        known[bit] == 1
      end
    end
  end
end
