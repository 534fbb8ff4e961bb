# frozen_string_literal: true

module Evrel
  module Volume
    # The bytes of one attribute: resident, or in runs of clusters that may
    # have holes and may be compressed.
    class NtfsStream
      PIECE = MIB

      attr_reader :size

      # @param disk [Disk] the volume
      # @param cluster [Integer] bytes
      # @param clusters [Integer] of the volume
      # @param attributes [Array<NtfsAttribute>] all pieces of one attribute
      def initialize(disk, cluster, clusters, attributes)
        @disk = disk
        @cluster = cluster
        pieces = attributes.sort_by(&:first_vcn)
        @first = pieces.first
        @size = @first.size
        if @first.resident?
          @value = @first.value
        else
          in_runs(pieces, clusters)
        end
      end

      # @return [Array<NtfsAttribute::Run>] empty where it is resident
      def runs = @runs || []

      # Yields the contents in pieces.
      def each_piece
        return enum_for(:each_piece) unless block_given?

        at = 0
        while at < size
          length = [PIECE, size - at].min
          yield read(at, length)
          at += length
        end
      end

      # @return [String] bytes within the stream
      # @raise [Damaged] outside of it
      def read(offset, length)
        raise Damaged, "bytes #{offset} to #{offset + length} of a stream of #{size}" if offset.negative? || offset + length > size
        return @value.byteslice(offset, length) if @value

        known = (@initialised - offset).clamp(0, length)
        bytes = known.zero? ? ''.b : stored(offset, known)
        bytes << ("\0".b * (length - known))
      end

      private

      def in_runs(pieces, clusters)
        raise Unsupported, 'it is encrypted by the file system' if @first.encrypted?

        @runs = pieces.flat_map { |piece| piece.runs(clusters) }
        @initialised = [@first.initialised, @size].min
        check_order
      end

      def check_order
        next_vcn = 0
        @runs.each do |run|
          raise Damaged, "its clusters are not in order at #{run.vcn}" unless run.vcn == next_vcn

          next_vcn += run.count
        end
        raise Damaged, "it has #{next_vcn} clusters for #{size} bytes" if next_vcn * @cluster < @initialised
      end

      def stored(offset, length) = @first.compressed? ? unpacked(offset, length) : plain(offset, length)

      def plain(offset, length)
        out = ''.b
        while length.positive?
          run = run_at(offset / @cluster)
          within = offset - (run.vcn * @cluster)
          take = [length, (run.count * @cluster) - within].min
          out << (run.lcn ? @disk.read((run.lcn * @cluster) + within, take) : "\0".b * take)
          offset += take
          length -= take
        end
        out
      end

      def run_at(vcn)
        @runs.bsearch { |run| run.vcn + run.count > vcn } or raise Damaged, "cluster #{vcn} is in none of its runs"
      end

      def unpacked(offset, length)
        unit = @cluster << @first.unit_bits
        out = ''.b
        while length.positive?
          index, within = offset.divmod(unit)
          take = [length, unit - within].min
          out << unit_bytes(index, unit).byteslice(within, take)
          offset += take
          length -= take
        end
        out
      end

      # A unit without holes is stored as it is, one of nothing but holes is
      # zero, and one that ends in holes is compressed.
      def unit_bytes(index, unit)
        return @unit if @unit_index == index

        clusters = clusters_of(index << @first.unit_bits, unit / @cluster)
        held = clusters.compact
        bytes = held.map { |lcn| @disk.read(lcn * @cluster, @cluster) }.join
        @unit_index = index
        @unit = if held.empty? then "\0".b * unit
                elsif held.size == clusters.size then bytes
                else Codec::Lznt1.decompress(bytes, unit)
                end
      end

      # @return [Array<Integer, nil>] the place of each cluster of a unit; what lies behind the last run is a hole
      def clusters_of(vcn, count)
        (vcn...(vcn + count)).map do |at|
          run = @runs.bsearch { |one| one.vcn + one.count > at }
          run&.lcn && (run.lcn + at - run.vcn)
        end
      end
    end
  end
end
