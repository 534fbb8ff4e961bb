# frozen_string_literal: true

module Evrel
  module Restore
    # A piece of an image as a disk, to read: each cluster is held against its
    # digest before a byte of it is given, and what was decided about one that
    # is not what it was counts.
    class Sound
      include Disk

      KEPT = 256 # clusters that stay in memory: tools read small pieces

      # @param feed [Feed]
      def initialize(feed)
        @feed = feed
        @start = feed.piece.image_start
        @kept = {}
        @lock = Mutex.new
      end

      def size = @feed.piece.size
      def logical_sector = 512
      def physical_sector = 4096

      # @raise [Mismatch, Damaged, Unreadable]
      def read_bytes(offset, length)
        out = ''.b
        while length.positive?
          index, within = (@start + offset).divmod(Image::CLUSTER)
          bytes = @lock.synchronize { cluster(index) }.byteslice(within, length)
          out << bytes
          offset += bytes.bytesize
          length -= bytes.bytesize
        end
        out
      end

      private

      def cluster(index)
        @kept.shift if @kept.size >= KEPT
        @kept[index] ||= @feed.sound(index, @feed.digest(index))
      end
    end
  end
end
