# frozen_string_literal: true

module Evrel
  module Volume
    # The file allocation table: for each cluster the number of the next one.
    class FatTable
      # Entries read at once; a multiple of two, so that no FAT12 pair is cut.
      PIECE = 262_144
      PIECES_KEPT = 8

      # @param offset [Integer] first byte of the first table on the volume
      # @param bytes [Integer] length of one table
      # @param bits [Integer] 12, 16 or 32
      def initialize(disk, offset:, bytes:, bits:, cluster_count:)
        @disk = disk
        @offset = offset
        @bytes = bytes
        @bits = bits
        @last = cluster_count + 1
        @end_mark = { 12 => 0xFF8, 16 => 0xFFF8, 32 => 0x0FFFFFF8 }[@bits]
        @pieces = {}
      end

      # @param cluster [Integer] 0 to the last cluster
      # @return [Integer] the raw entry (28 bits of FAT32)
      def [](cluster) = piece(cluster / PIECE)[cluster % PIECE]

      # Yields the clusters of a chain as they come, whatever they are: it ends at its end mark or when the block leaves it.
      def each_link(cluster)
        index = entries = nil
        until cluster >= @end_mark
          yield cluster
          at = cluster / PIECE
          entries = piece(index = at) unless at == index
          cluster = entries[cluster % PIECE]
        end
      end

      # Yields first cluster and count of each run of neighbours in a chain, as they
      # come. What is no cluster of this volume is yielded too, as the last.
      def each_chain_run(cluster)
        while cluster < @end_mark
          return yield(cluster, 1) unless cluster?(cluster)

          from, at = (cluster / PIECE).then { |index| [piece(index), cluster % PIECE] }
          count = 1
          count += 1 while from[at + count - 1] == cluster + count && at + count < from.size
          yield cluster, count
          cluster = from[at + count - 1]
        end
      end

      # @return [Boolean] whether there is such a cluster
      def cluster?(number) = number.between?(2, @last)

      # Yields the clusters of a file or directory, in order. The whole chain is
      # followed once before, so that nothing is read from a broken one.
      # @raise [Damaged] where the chain loops, leaves the volume or is cut
      def chain(first, &)
        return enum_for(:chain, first) unless block_given?

        check_chain(first)
        each_link(first, &)
      end

      # @yieldparam first [Integer] cluster
      # @yieldparam count [Integer]
      def each_used_run
        return enum_for(:each_used_run) unless block_given?

        0.step(@last, PIECE) do |from|
          bits = piece(from / PIECE).map { |entry| entry.zero? ? '0' : '1' }.join
          Runs.of_bits(bits) do |at, count|
            first = [from + at, 2].max
            last = [from + at + count - 1, @last].min
            yield first, last - first + 1 if last >= first
          end
          @pieces.clear # each piece is needed once
        end
      end

      # @return [Integer] clusters in use; bad ones count, as nothing can go there
      def used_count
        @used_count ||= 0.step(@last, PIECE).sum { |from| piece(from / PIECE).then { |one| one.size - one.count(0) } } -
                        [0, 1].count { |reserved| self[reserved].positive? }
      end

      private

      # Brent's way to find a loop: one remembered cluster, further on each time.
      def check_chain(first)
        remembered = nil
        steps = 0
        limit = 1
        each_link(first) do |cluster|
          unless cluster.between?(2, @last)
            raise Damaged.new("a cluster chain from #{first} goes to cluster #{cluster}", where: "cluster #{cluster}")
          end
          raise Damaged.new("the cluster chain from #{first} loops", where: "cluster #{cluster}") if cluster == remembered

          steps += 1
          next if steps < limit

          remembered = cluster
          limit *= 2
          steps = 0
        end
      end

      def piece(index)
        @pieces.shift if @pieces.size > PIECES_KEPT
        @pieces[index] ||= begin
          from = index * PIECE
          count = [PIECE, @last + 1 - from].min
          first = from * @bits / 8
          unpack(@disk.read(@offset + first, [((count * @bits) + 7) / 8, @bytes - first].min))
        end
      end

      def unpack(bytes)
        case @bits
        when 32 then lower(bytes.unpack('V*'))
        when 16 then bytes.unpack('v*')
        else unpack12(bytes)
        end
      end

      # The upper four bits belong to nobody; most systems leave them zero.
      def lower(entries) = entries.max.to_i > 0x0FFF_FFFF ? entries.map { |entry| entry & 0x0FFF_FFFF } : entries

      # Two entries of 12 bits share three bytes.
      def unpack12(bytes)
        bytes.unpack('C*').each_slice(3).flat_map do |a, b, c|
          [a | ((b.to_i & 0x0F) << 8), *(c && ((b >> 4) | (c << 4)))]
        end
      end
    end
  end
end
