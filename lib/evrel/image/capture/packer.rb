# frozen_string_literal: true

module Evrel
  module Image
    # Reads clusters, takes their digests and packs them: what may happen in
    # other processes.
    class Packer
      # What became of a batch: clusters as number, bytes that it takes, digest; what could not be read; seconds of
      # reading and of packing.
      Batch = Struct.new(:clusters, :unread, :reading, :packing)

      # @param disk [Disk]
      # @param options [CaptureOptions]
      # @param zeros [Array<(Integer, Integer)>] byte offset and length of what is not read, ascending: zeros stand there
      def initialize(disk, options, zeros = [])
        @disk = disk
        @options = options
        @zeros = zeros
      end

      # @param batch [Array<(Integer, Array)>] as UsedMap#each_cluster
      # @param out [String] the packed clusters are appended to it
      # @return [Batch]
      def call(batch, out)
        unread = Unread.new(@disk, tolerant: @options.tolerate_unread)
        reading, clusters = timed { batch.map { |index, ranges| [index, cluster(index, ranges, unread)] } }
        packing, packed = timed { clusters.map { |index, data| kept(index, data, out) } }
        Batch.new(packed, unread.ranges, reading, packing)
      end

      # @param index [Integer] of a cluster
      # @param ranges [Array<(Integer, Integer)>] its used ones
      # @return [String] its contents, zeros for what is not used or cannot be read
      def read(index, ranges) = cluster(index, ranges, Unread.new(@disk, tolerant: true))

      # @param data [String] of a cluster
      # @return [String] a frame, or as it is where it does not get smaller
      def self.packed(data, level)
        frame = Codec::Zstd.compress(data, level:)
        frame.bytesize < data.bytesize ? frame : data
      end

      private

      # @return [Array<(Float, Object)>] seconds, and what the block gave
      def timed
        before = Process.clock_gettime(Process::CLOCK_MONOTONIC)
        given = yield
        [Process.clock_gettime(Process::CLOCK_MONOTONIC) - before, given]
      end

      def kept(index, data, out)
        packed = data == Capture::ZEROS ? '' : Packer.packed(data, @options.level)
        out << packed
        [index, packed.bytesize, Digests.of(data)]
      end

      # What is not used within a cluster is zero: it says nothing, and packs well.
      def cluster(index, ranges, unread)
        base = index * CLUSTER
        ranges = wanted(base, ranges)
        return Capture::ZEROS if ranges.empty?
        return unread.read(base, CLUSTER) if ranges == [[0, CLUSTER]]

        data = Capture::ZEROS.dup
        ranges.each { |within, length| data[within, length] = unread.read(base + within, length) }
        data
      end

      # @return [Array<(Integer, Integer)>] those ranges without what is not read
      def wanted(base, ranges)
        at = @zeros.bsearch_index { |offset, length| offset + length > base } or return ranges

        while (offset, length = @zeros[at]) && offset < base + CLUSTER
          ranges = ranges.flat_map { |from, size| without(from, from + size, offset - base, offset + length - base) }
          at += 1
        end
        ranges
      end

      def without(from, below, first, last)
        [[from, [below, first].min], [[from, last].max, below]].filter_map { |one, two| [one, two - one] if two > one }
      end
    end
  end
end
