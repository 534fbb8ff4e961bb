# frozen_string_literal: true

module Evrel
  module Volume
    # Which clusters of an NTFS volume are in use, by $Bitmap.
    class NtfsBitmap
      PIECE = 64 * KIB
      KEPT = 512 # pieces that stay in memory

      # @param stream [NtfsStream, nil] contents of $Bitmap
      # @param clusters [Integer] of the volume
      # @raise [Damaged]
      def initialize(stream, clusters)
        unless stream && stream.size * 8 >= clusters
          raise Damaged.new("NTFS: a bitmap of #{stream&.size.inspect} bytes for #{clusters} clusters", where: '$Bitmap')
        end

        @stream = stream
        @clusters = clusters
        @pieces = {}
      end

      # Yields first cluster and count of each run of used clusters, ascending.
      def each_run
        return enum_for(:each_run) unless block_given?

        base = 0
        while base < @clusters
          bits = piece(base / 8 / PIECE).unpack1('b*')[0, @clusters - base]
          Runs.of_bits(bits) { |first, count| yield base + first, count }
          base += PIECE * 8
        end
      end

      # @return [Boolean] whether all of these clusters count as used
      def marked?(cluster, count)
        while count.positive?
          index, within = cluster.divmod(PIECE * 8)
          take = [count, (PIECE * 8) - within].min
          return false unless Runs.all_set?(piece(index), within, take)

          cluster += take
          count -= take
        end
        true
      end

      private

      def piece(index)
        @pieces.shift if @pieces.size >= KEPT
        @pieces[index] ||= @stream.read(index * PIECE, [PIECE, @stream.size - (index * PIECE)].min)
      end
    end
  end
end
