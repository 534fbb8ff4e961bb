# frozen_string_literal: true

require 'zlib'

module Evrel
  module Image
    # A qcow2 file, versions 2 and 3, as a read-only disk
    # (docs/interop/qcow2.txt of QEMU), on top of the disk that it builds on.
    # Without external data and subclusters; encrypted by LUKS only.
    class Qcow2
      include Disk
      include ClustersAtOnce

      OFFSET = 0x00FF_FFFF_FFFF_FE00 # bits 9 to 55 of L1 and L2 entries
      L2_CACHE = 4 * MIB # bytes of second-level tables that are kept
      # Header extensions.
      BACKING_FORMAT = 0xE2792ACA
      ENCRYPTION = 0x0537BE77 # where its LUKS header lies: 64-bit offset and length in the file
      LONGEST_NAME = 1023
      CLUSTER_BITS = (9..21)
      # An L1 of this many entries reaches 16 TiB at 64 KiB clusters.
      MOST_L1 = 4 * MIB

      attr_reader :size, :logical_sector, :physical_sector, :cluster_size

      # @return [Disk, nil] what clusters are read from that the file does not hold
      attr_accessor :backing

      # @param file [Disk] its bytes
      # @param name [String] for messages
      # @param logical_sector [Integer] bytes, as the manifest says: qcow2 does not know
      # @param passphrase [String, nil] of one that is encrypted
      # @raise [Damaged, Unsupported, Unreadable]
      # @raise [Locked] where the passphrase is missing or wrong
      def initialize(file, name:, logical_sector: 512, passphrase: nil)
        @path = name
        @logical_sector = logical_sector
        @physical_sector = 4096
        @file = file
        @header = read_header
        @cluster_bits = @header.cluster_bits.to_i
        @cluster_size = 1 << @cluster_bits
        @size = @header.virtual_size / logical_sector * logical_sector
        @l2_kept = (L2_CACHE / @cluster_size).clamp(4, 64)
        @zstd = @header.version >= 3 && @header.incompatible.anybits?(Qcow2Header::COMPRESSION_TYPE) &&
                @header.compression_type == 1
        @data = locked? ? deciphered(passphrase) : file
        @l1 = read_l1
        @l2 = {}
        @lock = Mutex.new
      end

      # @return [Boolean] whether a passphrase opens it
      def locked? = @header.encryption == Qcow2Header::LUKS

      def fork_safe? = @file.fork_safe? && (backing.nil? || backing.fork_safe?)

      def close
        @file.close
        backing&.close
      end

      # @return [String, nil] the file that it builds on, as the header names it
      def backing_name
        return if @header.backing_offset.zero?

        length = @header.backing_size.to_i
        raise damaged("names a backing file of #{length} characters") unless length.between?(1, LONGEST_NAME)

        file_bytes(@header.backing_offset.to_i, length, 'name of the backing file').force_encoding('UTF-8').scrub
      end

      # @return [String, nil] format of that file, where the header says it
      def backing_format = extension(BACKING_FORMAT)

      # Yields each run of clusters that hold something, here or below.
      def extents(&block)
        return enum_for(:extents) unless block
        return own_extents(&block) unless backing

        below = backing.extents.map { |offset, length| [offset, [length, size - offset].min] }.reject { |_, length| length <= 0 }
        Volume::Runs.union(own_extents.to_a + below, &block)
      end

      def own_extents
        return enum_for(:own_extents) unless block_given?

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
        return below(index) if entry.zero?
        return "\0".b * cluster_size if @header.version >= 3 && entry == 1
        return compressed(entry, index) if entry.anybits?(Qcow2Writer::COMPRESSED)
        return "\0".b * cluster_size if entry.anybits?(1)

        plain(entry & OFFSET, index)
      end

      private

      # @param wanted [Integer] type of a header extension
      # @return [String, nil] what it holds
      def extension(wanted)
        at = @header.version == 2 ? 72 : @header.header_length.to_i
        while at + 8 <= [@cluster_size, @file.size].min
          type, length = @file.read(at, 8).unpack('N2')
          return if type.zero? || length > @cluster_size || at + 8 + length > @file.size
          return @file.read(at + 8, length) if type == wanted

          at += 8 + ((length + 7) & ~7)
        end
      end

      # Clusters are encrypted by where they lie in the file; tables are not.
      # @return [Disk] the file, in the clear where clusters lie
      def deciphered(passphrase)
        offset, length = extension(ENCRYPTION)&.unpack('Q>2')
        raise damaged('does not say where its LUKS header lies') unless length && offset + length <= @file.size && (offset % 512).zero?

        Luks.within(@file, offset, length / 512 * 512, passphrase)
      end

      # What lies behind the end of a smaller disk below is zero.
      def below(index)
        offset = index * cluster_size
        length = backing ? [cluster_size, backing.size - offset].min : 0
        length.positive? ? backing.read(offset, length).ljust(cluster_size, "\0".b) : "\0".b * cluster_size
      end

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
        raise unsupported('an encryption that is long out of use') unless [0, Qcow2Header::LUKS].include?(header.encryption)
        return if header.version == 2 || header.incompatible.nobits?(~Qcow2Header::KNOWN_FEATURES)

        raise unsupported(format('incompatible features 0x%x', header.incompatible))
      end

      def check_sizes(header)
        raise damaged("claims clusters of 2^#{header.cluster_bits} bytes") unless CLUSTER_BITS.cover?(header.cluster_bits.to_i)

        per_l1 = 1 << ((header.cluster_bits * 2) - 3)
        needed = (header.virtual_size + per_l1 - 1) / per_l1
        return if header.virtual_size >= 512 && header.l1_entries.between?(needed, MOST_L1) &&
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
          @l2.shift if @l2.size > @l2_kept
          @l2[index] ||= file_bytes(@l1[index] & OFFSET, cluster_size, "L2 table #{index}").unpack('Q>*')
        end
      end

      def plain(offset, index) = file_bytes(offset, cluster_size, "cluster #{index}", from: @data)

      def compressed(entry, index)
        offset, length = packed_at(entry)
        bytes = file_bytes(offset, length, "cluster #{index}")
        @zstd ? Codec::Zstd.decompress(bytes, cluster_size) : inflate(bytes)
      rescue Damaged, Zlib::Error => e
        raise Damaged.new("cluster #{index} of the image: #{e.message}", where: "cluster #{index}")
      end

      # The length is told in sectors, and may reach beyond the frame.
      def packed_at(entry)
        offset_bits = 62 - (@cluster_bits - 8)
        offset = entry & ((1 << offset_bits) - 1)
        sectors = (entry & (Qcow2Writer::COMPRESSED - 1)) >> offset_bits
        [offset, [((sectors + 1) * 512) - (offset & 511), @file.size - offset].min]
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

      def file_bytes(offset, length, what, from: @file)
        raise Damaged.new("#{what} lies outside of the file", where: what) if offset.zero? || length <= 0 || offset + length > @file.size

        from.read(offset, length)
      end

      def damaged(message) = Damaged.new("#{@path} #{message}", where: 'qcow2 header')
      def unsupported(what) = Unsupported.new("#{@path} uses #{what}", where: 'qcow2 header')
    end
  end
end
