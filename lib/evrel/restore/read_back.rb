# frozen_string_literal: true

module Evrel
  module Restore
    # Reads a written disk from the device itself and compares it with the
    # digests of what was to be written, and its table with the plan's.
    class ReadBack
      BATCH = 128
      # Beyond this many places the disk is simply wrong.
      MOST_LISTED = 1000
      RECORD = 'Q<a32' # byte offset on the target, digest of what was read there

      NOTHING = Image::Digests.of(Image::Capture::ZEROS)

      attr_reader :compared, :mismatches

      # @param target [Disk]
      # @param again [Disk, nil] the source, where it is read a second time
      def initialize(target, again: nil)
        @target = target
        @again = again
        @compared = 0
        @mismatches = []
        @whole = ::Digest::Blake3.new
      end

      # What is read from now on comes from no memory between.
      def from_the_media
        @target.flush
        @target.drop_cache
        @again&.drop_cache
      end

      # @param feed [Feed] what was written
      # @yieldparam bytes [Integer] compared since the last call
      # @raise [Unreadable]
      # @raise [Trouble] where the source gives other bytes than before
      def run(feed)
        work = ->(span, _) { compare(feed.slice(*span), feed) }
        threads = feed.shared? ? 1 : Pipeline::THREADS
        Pipeline.each(feed.each_span(batch: BATCH), work, apart: @target.fork_safe? && feed.fork_safe?, threads:) do |(wrong, records), _|
          clusters = records.bytesize / 40
          @compared += clusters
          @whole.update(records)
          note(wrong, feed)
          yield clusters * Image::CLUSTER
        end
      end

      # @param marks [Marks] what has to stand in the table's place
      def marks(marks) = marks.gone.each { |offset| @mismatches << { cluster: nil, offset:, part: nil } }

      # @return [Boolean] whether writing the places once more may help
      def mendable? = @mismatches.size < MOST_LISTED && @mismatches.all? { |wrong| wrong[:cluster] }

      # @param table [Table::Gpt, Table::Mbr]
      def table(table)
        @target.drop_cache
        table.pieces(@target.size).each do |offset, bytes|
          next if @target.read(offset, bytes.bytesize) == bytes

          @mismatches << { cluster: nil, offset:, part: nil }
        end
      end

      # @return [String] BLAKE3, in hexadecimal, of a record for each cluster that was read: its byte offset on the
      #   target (64 bits little-endian) and the BLAKE3 digest of its bytes there, in the order of the parts
      def digest = @whole.hexdigest

      # Forgets what was found: something was written since.
      def again
        @compared = 0
        @mismatches = []
        @whole = ::Digest::Blake3.new
      end

      private

      # @return [Array<(Array<Integer>, String)>] wrong clusters, and a record for each
      def compare(batch, feed)
        batch = batch.reject { |index, _| feed.except?(index) }
        read_again(batch, feed) if @again
        whole, cut = batch.partition { |index, digest| digest && feed.plain?(index) }
        found = whole.zip(read(whole, feed)).map { |(index, digest), read| plain(index, digest, feed, read) }
        found += cut.map { |index, digest| alone(index, digest, feed) }
        found.sort_by!(&:first)
        [found.filter_map { |index, right, _| index unless right },
         found.map { |index, _, digest| [feed.offset_of(index), digest].pack(RECORD) }.join]
      end

      # The source a second time.
      def read_again(batch, feed) = batch.each { |index, digest| feed.again(index, digest) unless feed.zeros?(index) }

      # Where others read back at the same time.
      # @return [Array<String, nil>] digests of what stands there, nil for what has still to be read
      def read(whole, feed)
        helpers = feed.helpers if @target.shared_io
        helpers ? helpers.digests(@target.shared_io, whole.map { |index, _| feed.offset_of(index) }, Image::CLUSTER) : []
      end

      # What goes over whole and unchanged is held against its digest.
      def plain(index, digest, feed, found)
        buffer = Thread.current[:evrel_read_back] ||= ''.b
        found ||= Image::Digests.of(@target.read_into(buffer, feed.offset_of(index), Image::CLUSTER))
        right = found == digest
        right ||= found == NOTHING && feed.zeros?(index) && feed.lost?(index, digest)
        # What was read first counts no more where it was decided so since.
        right = found == NOTHING if @again && feed.zeros?(index) && feed.differs?(index, digest)
        [index, right, found]
      end

      # A cluster that belongs only partly to the piece, or is changed on the way, has no digest of that;
      # in a format without digests none has: it is compared with what was to be written byte by byte.
      def alone(index, digest, feed)
        offset, bytes = feed.clip(index, feed.sound(index, digest))
        found = @target.read(offset, bytes.bytesize)
        [index, found == bytes, Image::Digests.of(found)]
      end

      def note(wrong, feed)
        wrong.each do |index|
          @mismatches << { cluster: index, offset: feed.offset_of(index), part: feed.piece.number } if @mismatches.size < MOST_LISTED
        end
      end
    end
  end
end
