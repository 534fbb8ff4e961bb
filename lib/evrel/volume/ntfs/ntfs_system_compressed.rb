# frozen_string_literal: true

module Evrel
  module Volume
    # The contents of a file that the system has compressed itself: chunks in a
    # stream beside the empty one, behind a table of where each begins. What a
    # chunk could not be made smaller lies as it is. (The reparse point holds,
    # behind 8 bytes of its own, version, provider, version and method, 32 bits
    # each; ntfs-3g documents the table.)
    class NtfsSystemCompressed
      STREAM = 'WofCompressedData'
      FILE_PROVIDER = 2
      # Method → name and bytes of a chunk, in the order of their numbers.
      METHODS = [[:xpress, 4096], [:lzx, 32_768], [:xpress, 8192], [:xpress, 16_384]].freeze
      LARGE = 1 << 32 # from here on places have 64 bits
      PIECE = MIB

      attr_reader :size

      # @param packed [NtfsStream, nil]
      # @param size [Integer] bytes of the contents
      # @param reparse [String] value of the reparse point
      # @raise [Damaged, Unsupported]
      def initialize(packed, size, reparse)
        _, provider, _, method = reparse.unpack('@8V4')
        raise Unsupported, "it is compressed by provider #{provider.inspect}" unless provider == FILE_PROVIDER

        @method, @chunk = METHODS[method.to_i] || raise(Unsupported, "it is compressed by method #{method.inspect}")
        @packed = packed or raise Damaged, 'its compressed contents are missing'
        @size = size
        @count = (size + @chunk - 1) / @chunk
        @width = size >= LARGE ? 8 : 4
        @table = [@count - 1, 0].max * @width
        raise Damaged, "a table of #{@count} chunks in #{packed.size} bytes" if @table > packed.size
      end

      def runs = @packed.runs

      # Yields the contents in pieces.
      def each_piece
        return enum_for(:each_piece) unless block_given?

        out = ''.b
        @count.times do |index|
          out << chunk(index)
          next if out.bytesize < PIECE

          yield out
          out = ''.b
        end
        yield out unless out.empty?
      end

      private

      def chunk(index)
        first = place(index)
        last = index + 1 < @count ? place(index + 1) : @packed.size
        wanted = [@chunk, size - (index * @chunk)].min
        raise Damaged, "chunk #{index} lies from #{first} to #{last}" unless first < last && last <= @packed.size && last - first <= wanted

        bytes = @packed.read(first, last - first)
        bytes.bytesize == wanted ? bytes : Codec::SystemCompression.decompress(@method, bytes, wanted)
      end

      # The first chunk begins behind the table; all places count from there.
      def place(index)
        return @table if index.zero?

        @table + @packed.read((index - 1) * @width, @width).unpack1(@width == 8 ? 'Q<' : 'V')
      end
    end
  end
end
