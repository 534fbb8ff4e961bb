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

      # One cluster after the other: what was just read is still in the processor's own memory when it is packed.
      # @param batch [Array<(Integer, Array)>] as UsedMap#each_cluster
      # @param out [String] the packed clusters are appended to it
      # @return [Batch]
      def call(batch, out)
        unread = Unread.new(@disk, tolerant: @options.tolerate_unread)
        known = known(batch)
        done = Batch.new([], nil, 0.0, 0.0)
        batch.each do |index, ranges|
          began = now
          data = cluster(index, ranges, unread)
          read = now
          done.clusters << kept(index, data, known[index], out)
          done.reading += read - began
          done.packing += now - read
        end
        done.tap { done.unread = unread.ranges }
      end

      # @param index [Integer] of a cluster
      # @param ranges [Array<(Integer, Integer)>] its used ones
      # @return [String] its contents, zeros for what is not used or cannot be read
      def read(index, ranges) = cluster(index, ranges, Unread.new(@disk, tolerant: true)).dup

      # @param data [String] of a cluster
      # @return [String] a frame, or as it is where it does not get smaller
      def self.packed(data, level)
        frame = Codec::Zstd.compress(data, level:)
        return frame if frame.bytesize < data.bytesize

        frame.clear
        data
      end

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

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
        size = packed.bytesize
        # Its memory is free at once: what waits for the garbage collector is many times what is worked on.
        packed.clear unless packed.frozen? || packed.equal?(data)
        [index, size, digest]
      end

      # What is not used within a cluster is zero: it says nothing, and packs well.
      def cluster(index, ranges, unread)
        base = index * CLUSTER
        ranges = wanted(base, ranges)
        return Capture::ZEROS if ranges.empty?

        whole = taken_along(index)
        return whole || unread.read(base, CLUSTER, buffer) if ranges == [[0, CLUSTER]]

        data = Capture::ZEROS.dup
        ranges.each { |within, length| data[within, length] = whole ? whole.byteslice(within, length) : unread.read(base + within, length) }
        data
      end

      # One for each thread: making one for each cluster costs as much as taking its digest.
      def buffer = Thread.current[:evrel_packed] ||= "\0".b * CLUSTER

      # @return [String, nil] the whole cluster; nil where it comes from nowhere but the disk, or cannot be read
      def taken_along(index)
        return unless @options.shared

        _, data = @options.shared.each_sound({ index => nil }).first
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
