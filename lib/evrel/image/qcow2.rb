# frozen_string_literal: true

require 'zlib'

module Evrel
  module Image
    # A qcow2 file, versions 2 and 3, as a read-only disk
    # (docs/interop/qcow2.txt of QEMU). Without backing files, encryption,
    # external data and subclusters.
    class Qcow2
      include Disk

      OFFSET = 0x00FF_FFFF_FFFF_FE00 # bits 9 to 55 of L1 and L2 entries
      L2_CACHE = 64
      CLUSTER_BITS = (9..21)
      # An L1 of this many entries reaches 16 TiB at 64 KiB clusters.
      MOST_L1 = 4 * MIB

      attr_reader :size, :logical_sector, :physical_sector, :cluster_size

      # @param path [String]
      # @param logical_sector [Integer] bytes, as the manifest says: qcow2 does not know
      # @raise [Damaged, Unsupported, Unreadable]
      def initialize(path, logical_sector: 512)
        @path = path
        @logical_sector = logical_sector
        @physical_sector = 4096
        @file = Disk::File.open(path, logical_sector: 1)
        @header = read_header
        @cluster_bits = @header.cluster_bits.to_i
        @cluster_size = 1 << @cluster_bits
        @size = @header.virtual_size.to_i
        @zstd = @header.version >= 3 && @header.incompatible.anybits?(Qcow2Header::COMPRESSION_TYPE) &&
                @header.compression_type == 1
        @l1 = read_l1
        @l2 = {}
        @lock = Mutex.new
      end

      def close = @file.close

      # Yields each run of clusters that hold something.
      def extents
        return enum_for(:extents) unless block_given?

        per_l2 = cluster_size / 8
        @l1.each_with_index do |entry, index|
          next if entry.nobits?(OFFSET)

          base = index * per_l2
          l2(index).each_with_index.chunk_while { |a, b| a[0].zero? == b[0].zero? }.each do |run|
            next if run.first[0].zero?

            from = (base + run.first[1]) * cluster_size
            to = [(base + run.last[1] + 1) * cluster_size, size].min
            yield from, to - from
          end
        end
      end

      def read_bytes(offset, length)
        out = ''.b
        while length.positive?
          index, within = offset.divmod(cluster_size)
          take = [cluster_size - within, length].min
          piece = cluster(index)
          out << (take == cluster_size ? piece : piece.byteslice(within, take))
          offset += take
          length -= take
        end
        out
      end

      # @param index [Integer] number of the cluster on the disk
      # @return [String] cluster_size bytes; safe to call from several threads
      # @raise [Damaged]
      def cluster(index)
        entry = l2_entry(index)
        return "\0".b * cluster_size if entry.zero? || (@header.version >= 3 && entry == 1)
        return compressed(entry, index) if entry.anybits?(Qcow2Writer::COMPRESSED)
        return "\0".b * cluster_size if entry.anybits?(1)

        plain(entry & OFFSET, index)
      end

      private

      def read_header
        raise damaged('is too short for a header') if @file.size < 72

        header = Qcow2Header.read(@file.read(0, [112, @file.size].min).ljust(112, "\0".b))
        raise damaged('does not begin like a qcow2 file') unless header.magic == Qcow2Header::MAGIC

        check_kind(header)
        check_sizes(header)
        header
      end

      def check_kind(header)
        raise unsupported("qcow2 version #{header.version}") unless [2, 3].include?(header.version)
        raise unsupported('a backing file') unless header.backing_offset.zero?
        raise unsupported('encryption') unless header.encryption.zero?
        return if header.version == 2 || header.incompatible.nobits?(~Qcow2Header::KNOWN_FEATURES)

        raise unsupported(format('incompatible features 0x%x', header.incompatible))
      end

      def check_sizes(header)
        raise damaged("claims clusters of 2^#{header.cluster_bits} bytes") unless CLUSTER_BITS.cover?(header.cluster_bits.to_i)

        per_l1 = 1 << ((header.cluster_bits * 2) - 3)
        needed = (header.virtual_size + per_l1 - 1) / per_l1
        return if header.l1_entries.between?(needed, MOST_L1) &&
                  header.l1_offset + (header.l1_entries * 8) <= @file.size

        raise damaged("has a table of #{header.l1_entries} entries for #{header.virtual_size} bytes")
      end

      def read_l1 = @file.read(@header.l1_offset, @header.l1_entries * 8).unpack('Q>*')

      def l2_entry(index)
        raise OutOfRange.new("cluster #{index} is outside of the image", where: @path) if index * cluster_size >= size

        per_l2 = cluster_size / 8
        return 0 if @l1[index / per_l2].nobits?(OFFSET)

        l2(index / per_l2)[index % per_l2]
      end

      def l2(index)
        @lock.synchronize do
          @l2.shift if @l2.size > L2_CACHE
          @l2[index] ||= file_bytes(@l1[index] & OFFSET, cluster_size, "L2 table #{index}").unpack('Q>*')
        end
      end

      def plain(offset, index) = file_bytes(offset, cluster_size, "cluster #{index}")

      def compressed(entry, index)
        offset_bits = 62 - (@cluster_bits - 8)
        offset = entry & ((1 << offset_bits) - 1)
        sectors = (entry & (Qcow2Writer::COMPRESSED - 1)) >> offset_bits
        length = ((sectors + 1) * 512) - (offset & 511)
        bytes = file_bytes(offset, [length, @file.size - offset].min, "cluster #{index}")
        @zstd ? Codec::Zstd.decompress(bytes, cluster_size) : inflate(bytes)
      rescue Damaged, Zlib::Error => e
        raise Damaged.new("cluster #{index} of the image: #{e.message}", where: "cluster #{index}")
      end

      # Raw deflate with a window of 4 KiB, as the specification says.
      def inflate(bytes)
        inflater = Zlib::Inflate.new(-12)
        out = ''.b
        inflater.inflate(bytes) do |piece|
          out << piece
          break if out.bytesize >= cluster_size
        end
        raise Damaged, 'it ends early' if out.bytesize < cluster_size

        out.byteslice(0, cluster_size)
      ensure
        inflater&.close
      end

      def file_bytes(offset, length, what)
        raise Damaged.new("#{what} lies outside of the file", where: what) if offset.zero? || length <= 0 || offset + length > @file.size

        @file.read(offset, length)
      end

      def damaged(message) = Damaged.new("#{@path} #{message}", where: 'qcow2 header')
      def unsupported(what) = Unsupported.new("#{@path} uses #{what}", where: 'qcow2 header')
    end
  end
end
