# frozen_string_literal: true

module Evrel
  module Image
    # Reads clusters, takes their digests and packs them: what may happen in
    # other processes.
    class Packer
      # Bytes that a cluster takes which the image below holds already.
      SAME = 0xFFFF_FFFF

      # What became of a batch: clusters as number, bytes that it takes, digest; what could not be read; seconds of
      # reading and of packing.
      Batch = Struct.new(:clusters, :unread, :reading, :packing)

      # @param disk [Disk]
      # @param options [CaptureOptions]
      # @param zeros [Array<(Integer, Integer)>] byte offset and length of what is not read, ascending: zeros stand there
      # @param below [Digests, nil] of the image on top of which this one lies
      def initialize(disk, options, zeros = [], below = nil)
        @disk = disk
        @options = options
        @zeros = zeros
        @below = below
      end

      # @param batch [Array<(Integer, Array)>] as UsedMap#each_cluster
      # @param out [String] the packed clusters are appended to it
      # @return [Batch]
      def call(batch, out)
        unread = Unread.new(@disk, tolerant: @options.tolerate_unread)
        reading, clusters = timed { batch.map { |index, ranges| [index, cluster(index, ranges, unread)] } }
        known = known(batch)
        packing, packed = timed { clusters.map { |index, data| kept(index, data, known[index], out) } }
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

      # @return [Hash{Integer=>String}] digests of the image below
      def known(batch)
        return {} unless @below

        @below.each_batch(from: batch.first.first, below: batch.last.first + 1).to_a.flatten(1).to_h
      end

      def kept(index, data, below, out)
        digest = Digests.of(data)
        return [index, SAME, digest] if digest == below

        packed = data == Capture::ZEROS ? '' : Packer.packed(data, @options.level)
        out << packed
        [index, packed.bytesize, digest].tap { forget(data, packed) }
      end

      # Their memory is free at once: what waits for the garbage collector is many times what is worked on.
      def forget(*strings) = strings.each { |one| one.clear unless one.frozen? }

      # What is not used within a cluster is zero: it says nothing, and packs well.
      def cluster(index, ranges, unread)
        base = index * CLUSTER
        ranges = wanted(base, ranges)
        return Capture::ZEROS if ranges.empty?

        whole = taken_along(index)
        return whole || unread.read(base, CLUSTER) if ranges == [[0, CLUSTER]]

        data = Capture::ZEROS.dup
        ranges.each { |within, length| data[within, length] = whole ? whole.byteslice(within, length) : unread.read(base + within, length) }
        data
      end

      # @return [String, nil] the whole cluster; nil where it comes from nowhere but the disk, or cannot be read
      def taken_along(index)
        return unless @options.shared

        _, data = @options.shared.each_sound({ index => nil }).first
        data&.dup # one's own: it is emptied when it was packed
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
