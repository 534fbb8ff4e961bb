# frozen_string_literal: true

module Evrel
  module Image
    # Writes a qcow2 version 3 with zstd clusters, front to back
    # (docs/interop/qcow2.txt of QEMU). Clusters come in ascending order, so
    # only one L2 table is ever held in memory. Where each cluster lies follows
    # from the sizes of those before it alone: so one that was cut off goes on.
    #
    #   writer = Qcow2Writer.new(path, disk_size)
    #   writer.add(0, bytes)
    #   writer.close
    class Qcow2Writer
      COMPRESSED = 1 << 62
      COPIED = 1 << 63
      ZERO = 1
      CLUSTER_BITS = 16
      L2_ENTRIES = CLUSTER / 8
      # In a compressed entry the offset has 62 - (cluster_bits - 8) bits.
      OFFSET_BITS = 62 - (CLUSTER_BITS - 8)

      FLUSH = 64 * MIB
      # Header extension that says what format the file has that this one builds on.
      FORMAT_BELOW = [Qcow2::BACKING_FORMAT, 5, 'qcow2'].pack('N2a8').b

      # Goes on with a file that was begun.
      # @param file [String, IO, Luks::Writer]
      # @param placed [Enumerable<(Integer, Integer)>] number of each cluster that is in it, and the bytes that it takes
      # @return [Qcow2Writer] as it was after the last of them
      def self.again(file, size, placed, **how)
        file = ::File.open(file, ::File::RDWR | ::File::BINARY) if file.is_a?(String)
        new(file, size, **how).tap { |writer| placed.each { |index, bytes| writer.send(:place, index, bytes) } }
      end

      # @return [Integer] bytes that were written so far
      attr_reader :end

      # @param file [String, IO, Luks::Writer] a path must not exist; what is open is closed with it
      # @param size [Integer] bytes of the disk
      # @param backing [String, nil] relative path of a qcow2 file that holds what is not added here
      def initialize(file, size, backing: nil)
        @backing = backing.to_s.b
        @io = file.is_a?(String) ? ::File.open(file, ::File::RDWR | ::File::CREAT | ::File::EXCL | ::File::BINARY) : file
        @size = size
        @end = CLUSTER # the header's cluster is written last
        @counts = [1]
        @l1 = Array.new((size + (CLUSTER * L2_ENTRIES) - 1) / (CLUSTER * L2_ENTRIES), 0)
        @l2 = nil
        @last = -1
        @flushed = 0
      end

      # @param index [Integer] number of the cluster on the disk, ascending
      # @param bytes [String] its CLUSTER bytes, or fewer: a zstd frame of them; none where it is all zeros
      def add(index, bytes) = add_all([[index, bytes.bytesize]], bytes)

      # @param clusters [Array<(Integer, Integer)>] number of each, ascending, and how many of the bytes are its
      # @param bytes [String] begins with those of all, one behind the other
      def add_all(clusters, bytes)
        at = 0
        runs(clusters) do |offset, length|
          piece = bytes.byteslice(at, length)
          Room.put(@io, piece, offset)
          piece.clear # its memory is free at once
          at += length
        end
        flush_beside if @end - @flushed >= FLUSH
      end

      # What was added so far survives a power cut, once the block that is called at last has been.
      # @return [Thread] that sees to it, and then calls the block
      def durable(&said)
        @flushing&.value
        @flushed = @end
        @flushing = Thread.new do
          @io.fdatasync
          said&.call
        end
        @flushing.report_on_exception = false
        @flushing
      end

      # Writes what is still missing and makes the file durable.
      # @return [Integer] bytes of the file
      def close
        @flushing&.value
        finish_l2
        l1_offset = put_table(@l1.pack('Q>*'))
        table_offset, table_clusters = put_refcounts
        Room.put(@io, header(l1_offset, table_offset, table_clusters), 0)
        @io.truncate(aligned(@end))
        @io.fsync
        @io.size
      ensure
        @flushing&.join(0.0)
        @io.close
      end

      private

      # What is written goes to the disk while the rest is made: at the end nobody waits for all of it.
      def flush_beside = durable

      # Places them.
      # @yieldparam offset [Integer] byte of the file from which on so many bytes lie behind each other
      # @yieldparam length [Integer]
      def runs(clusters)
        from = length = 0
        clusters.each do |index, bytes|
          offset = place(index, bytes)
          if offset != from + length
            yield from, length if length.positive?
            from = offset
            length = 0
          end
          length += bytes
        end
        yield from, length if length.positive?
      end

      # @param bytes [Integer] that the cluster takes
      # @return [Integer] byte of the file at which they begin
      def place(index, bytes)
        raise ArgumentError, "cluster #{index} after #{@last}" unless index > @last

        @last = index
        table = l2_for(index) # may put the one before it in the way
        @end = aligned(@end) if bytes == CLUSTER
        offset = @end
        table[index % L2_ENTRIES] =
          if bytes.zero? then ZERO
          elsif bytes < CLUSTER then compressed(bytes)
          else plain
          end
        offset
      end

      def l2_for(index)
        number = index / L2_ENTRIES
        return @l2 if @l2 && @l2_number == number

        finish_l2
        @l2_number = number
        @l2 = Array.new(L2_ENTRIES, 0)
      end

      def finish_l2
        @l1[@l2_number] = put_table(@l2.pack('Q>*')) | COPIED if @l2
        @l2 = nil
      end

      # Compressed clusters follow each other without alignment; each holds on
      # to every host cluster that its sectors touch.
      def compressed(bytes)
        offset = @end
        @end += bytes
        sectors = ((@end - 1) >> 9) - (offset >> 9)
        ((offset / CLUSTER)..((@end - 1) / CLUSTER)).each { |host| count(host) }
        COMPRESSED | (sectors << OFFSET_BITS) | offset
      end

      def plain
        count(@end / CLUSTER)
        @end += CLUSTER
        (@end - CLUSTER) | COPIED
      end

      def put_table(bytes)
        offset = @end = aligned(@end)
        append(bytes)
        @end = aligned(@end)
        ((offset / CLUSTER)...(@end / CLUSTER)).each { |host| count(host) }
        offset
      end

      def append(bytes)
        Room.put(@io, bytes, @end)
        @end += bytes.bytesize
      end

      def count(host) = @counts[host] = @counts[host].to_i + 1
      def aligned(offset) = (offset + CLUSTER - 1) / CLUSTER * CLUSTER

      # The refcount structures count themselves: add blocks until all fit.
      def put_refcounts
        first = aligned(@end) / CLUSTER
        per_block = CLUSTER / 2
        blocks = table = 0
        loop do
          total = first + blocks + table
          needed = (total + per_block - 1) / per_block
          needed_table = ((needed * 8) + CLUSTER - 1) / CLUSTER
          break if needed == blocks && needed_table == table

          blocks = needed
          table = needed_table
        end
        (first...(first + blocks + table)).each { |host| @counts[host] = 1 }
        write_refcounts(first * CLUSTER, blocks, table, per_block)
      end

      def write_refcounts(offset, blocks, table, per_block)
        @end = offset
        blocks.times do |index|
          counts = @counts[index * per_block, per_block].map(&:to_i)
          append(counts.pack('S>*').ljust(CLUSTER, "\0".b))
        end
        append(Array.new(blocks) { |index| offset + (index * CLUSTER) }.pack('Q>*').ljust(table * CLUSTER, "\0".b))
        [offset + (blocks * CLUSTER), table]
      end

      # Behind the header its extensions, and behind their end the name of the file below.
      def header(l1_offset, table_offset, table_clusters)
        extensions = "#{FORMAT_BELOW unless @backing.empty?}#{"\0" * 8}".b
        Qcow2Header.new(
          backing_offset: @backing.empty? ? 0 : Qcow2Header.new.num_bytes + extensions.bytesize, backing_size: @backing.bytesize,
          cluster_bits: CLUSTER_BITS, virtual_size: @size, l1_entries: @l1.size, l1_offset:,
          refcount_table_offset: table_offset, refcount_table_clusters: table_clusters,
          incompatible: Qcow2Header::COMPRESSION_TYPE, compression_type: 1
        ).to_binary_s + extensions + @backing
      end
    end
  end
end
