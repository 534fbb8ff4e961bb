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
        root = @volume.entry('/').ref
        queue = [root]
        held = root.zero? ? 0 : take(root)
        return held if held.is_a?(String)

        while (directory = queue.pop)
          @volume.claims_of(directory).each do |first, size, folder|
            reason = wrong(first, size, folder)
            return reason if reason

            queue << first if folder
          end
        end
        nil
      end

      def wrong(first, size, folder)
        return ("#{name(first)} has no clusters" unless !folder && size.zero?) if first.zero?

        held = take(first)
        return held if held.is_a?(String)

        "#{name(first)} has #{held} bytes in its chain, and says #{size}" if !folder && held < size
      end

      # @return [Integer, String] bytes of the chain that begins there, or why it is none
      def take(first)
        total = 0
        @table.each_chain_run(first) do |cluster, count|
          # What is free has a zero where the number of the next one would be.
          return "the chain of #{name(first)} leads to cluster #{cluster}, which is free or none" unless @table.cluster?(cluster)

          known = mark(cluster, count)
          return "the chain of #{name(first)} shares cluster #{known} with another" if known

          total += count
        end
        total * @volume.cluster_size
      end

      # What the entry with that first cluster is called, looked up only to be told.
      def name(first)
        @volume.each_entry.lazy.first(100_000).find { |entry| entry.ref == first }&.path || "cluster #{first}"
      rescue Damaged, Unreadable
        "cluster #{first}"
      end

      # Marks them as taken, up to one that is already.
      # @return [Integer, nil] that one
      def mark(cluster, count)
        while count.positive?
          byte, bit = cluster.divmod(8)
          here = [8 - bit, count].min
          mask = ((1 << here) - 1) << bit
          known = @seen.getbyte(byte)
          return cluster + (0...here).find { |index| known[bit + index] == 1 } if known.anybits?(mask)

          @seen.setbyte(byte, known | mask)
          cluster += here
          count -= here
        end
        nil
      end
    end
  end
end
