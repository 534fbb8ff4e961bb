# frozen_string_literal: true

module Evrel
  module Codec
    # LZNT1, the compression of NTFS ("[MS-XCA]", section 2.5): chunks of up to
    # 4 KiB, each with a header of two bytes, and within a chunk groups of
    # eight tokens behind a byte of flags.
    module Lznt1
      CHUNK = 4096

      module_function

      # @param data [String] the chunks, and perhaps zeros behind them
      # @param size [Integer] bytes that they stand for; what is missing is zero
      # @return [String] exactly +size+ bytes
      # @raise [Damaged]
      def decompress(data, size)
        out = ''.b
        at = 0
        while at + 2 <= data.bytesize && out.bytesize < size
          header = data.byteslice(at, 2).unpack1('v')
          break if header.zero?

          length = (header & 0x0FFF) + 1
          raise damaged(at) if at + 2 + length > data.bytesize

          chunk = data.byteslice(at + 2, length)
          # All chunks but the last stand for 4 KiB.
          out << (header.anybits?(0x8000) ? expand(chunk, at) : chunk)
          at += 2 + length
        end
        out.ljust(size, "\0".b).byteslice(0, size)
      end

      def expand(chunk, where)
        out = ''.b
        at = 0
        while at < chunk.bytesize
          flags = chunk.getbyte(at)
          at += 1
          8.times do |bit|
            break if at >= chunk.bytesize

            at += flags[bit].zero? ? literal(chunk, at, out) : copy(chunk, at, out, where)
          end
        end
        out
      end

      def literal(chunk, at, out)
        out << chunk.byteslice(at, 1)
        1
      end

      # The more of the chunk is known, the more bits of a token tell how far
      # back to go, and the fewer how much to copy.
      def copy(chunk, at, out, where)
        token = chunk.byteslice(at, 2).unpack1('v') or raise damaged(where)
        back_bits = [(out.bytesize - 1).bit_length, 4].max
        length = (token & ((1 << (16 - back_bits)) - 1)) + 3
        back = (token >> (16 - back_bits)) + 1
        raise damaged(where) if back > out.bytesize || out.bytesize + length > CHUNK

        source = out.byteslice(-back, [back, length].min)
        out << (source * ((length / back) + 1)).byteslice(0, length)
        2
      end

      def damaged(at) = Damaged.new('a compressed block is broken', where: "LZNT1 chunk at byte #{at}")
      private_class_method :expand, :literal, :copy, :damaged
    end
  end
end
