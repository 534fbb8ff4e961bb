# frozen_string_literal: true

require 'digest/blake3'

module Evrel
  module Image
    # The BLAKE3 digest of each cluster that an image keeps, in `clusters.b3`:
    #
    #   offset 0   "EVRELB3\0"
    #   offset 8   version (1), 32 bits little-endian
    #   offset 12  bytes per cluster, 32 bits little-endian
    #   offset 16  records of 40 bytes, ascending: number of the cluster
    #              (64 bits little-endian), digest (32 bytes)
    #
    # Records have one length and are sorted: they can be streamed, and found
    # by halving, without holding them in memory.
    class Digests
      MAGIC = "EVRELB3\0".b
      HEAD = 16
      RECORD = 40
      BATCH = 1024 # records read at once

      # @param data [String]
      # @return [String] 32 bytes
      def self.of(data) = ::Digest::Blake3.digest(data)

      # Appends records to a new file.
      class Writer
        attr_reader :count

        # @param file [String, IO, Luks::Writer] a path must not exist; what is open is closed with it
        def initialize(file)
          @io = file.is_a?(String) ? ::File.open(file, ::File::WRONLY | ::File::CREAT | ::File::EXCL | ::File::BINARY) : file
          @io.write(MAGIC + [1, CLUSTER].pack('V2'))
          @count = 0
        end

        # Goes on with a list that was begun.
        # @param file [String, IO, Luks::Writer]
        # @param count [Integer, nil] records of it that hold; without it, all that are there
        def self.again(file, count = nil)
          allocate.tap { |writer| writer.send(:reopen, file.is_a?(String) ? ::File.open(file, 'r+b') : file, count) }
        end

        def add(index, digest)
          @io.write([index].pack('Q<') + digest)
          @count += 1
        end

        # Makes what was added so far durable.
        def sync = @io.fsync

        def close
          @io.fsync
        ensure
          @io.close
        end

        private

        # A record that was cut off goes.
        def reopen(file, count)
          @io = file
          @count = [[(@io.size - HEAD) / RECORD, 0].max, count].compact.min
          @io.truncate(HEAD + (@count * RECORD))
          @io.seek(HEAD + (@count * RECORD))
        end
      end

      attr_reader :count

      # @param file [Disk] the list's bytes
      # @param path [String] for messages
      # @param count [Integer, nil] records, where the file is longer than its list: in a container it ends with a sector
      # @raise [Damaged, Unreadable]
      def initialize(file, path, count: nil)
        @file = file
        head = @file.size >= HEAD ? @file.read(0, HEAD) : ''.b
        version, cluster = head.byteslice(8, 8).to_s.unpack('V2')
        bytes = count ? HEAD + (count * RECORD) : @file.size
        unless head.start_with?(MAGIC) && version == 1 && cluster == CLUSTER && ((bytes - HEAD) % RECORD).zero? && bytes <= @file.size
          raise Damaged.new("#{path} is no list of cluster digests", where: path)
        end

        @count = (bytes - HEAD) / RECORD
      end

      # Yields arrays of [number of the cluster, digest], ascending.
      # @param from [Integer] number of the first cluster wanted
      # @param below [Integer, nil] clusters from this number on are left out
      def each_batch(from: 0, below: nil, batch: BATCH)
        return enum_for(:each_batch, from:, below:, batch:) unless block_given?

        at = lower_bound(from)
        last = below ? lower_bound(below) : count
        previous = from - 1
        while at < last
          records = records(at, [batch, last - at].min)
          records.each { |record| previous = check_order(previous, record.first) }
          yield records
          at += records.size
        end
      end

      # Yields the batches of each_batch by their place in the list, without reading them: `slice` does.
      # @yieldparam span [(Integer, Integer)] place of the first, and how many
      def each_span(from: 0, below: nil, batch: BATCH)
        return enum_for(:each_span, from:, below:, batch:) unless block_given?

        at = lower_bound(from)
        last = below ? lower_bound(below) : count
        at.step(last - 1, batch) { |first| yield [first, [batch, last - first].min] }
      end

      # @return [Array<(Integer, String)>] numbers and digests
      # @raise [Damaged] where they are not in order, with the one before them
      def slice(at, count)
        previous = at.zero? ? -1 : records(at - 1, 1).first.first
        records(at, count).each { |record| previous = check_order(previous, record.first) }
      end

      # @return [String, nil] digest of one cluster
      def of(index)
        at = lower_bound(index)
        found, digest = records(at, 1).first if at < count
        digest if found == index
      end

      # @return [Integer] how many clusters lie in from...below
      def count_between(from, below) = lower_bound(below) - lower_bound(from)

      def close = @file.close

      private

      def records(at, count)
        bytes = @file.read(HEAD + (at * RECORD), count * RECORD)
        bytes.unpack('Q<a32' * count).each_slice(2).to_a
      end

      def lower_bound(index)
        (0...count).bsearch { |at| records(at, 1).first.first >= index } || count
      end

      def check_order(previous, index)
        return index if index > previous

        raise Damaged.new("the list of digests is out of order at cluster #{index}", where: "cluster #{index}")
      end
    end
  end
end
