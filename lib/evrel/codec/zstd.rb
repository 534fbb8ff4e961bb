# frozen_string_literal: true

require 'fiddle'

module Evrel
  module Codec
    # libzstd (RFC 8878) through fiddle. A call made this way runs without the
    # interpreter's lock, so that threads decompress on all cores; the gems
    # that wrap the library keep the lock and use one core.
    module Zstd
      LIBRARY = Fiddle.dlopen('libzstd.so.1')

      def self.function(name, *arguments)
        Fiddle::Function.new(LIBRARY[name], arguments, Fiddle::TYPE_SIZE_T)
      end
      private_class_method :function

      POINTER = Fiddle::TYPE_VOIDP
      SIZE = Fiddle::TYPE_SIZE_T
      BOUND = function('ZSTD_compressBound', SIZE)
      COMPRESS = function('ZSTD_compress', POINTER, SIZE, POINTER, SIZE, Fiddle::TYPE_INT)
      DECOMPRESS = function('ZSTD_decompress', POINTER, SIZE, POINTER, SIZE)
      FRAME_SIZE = function('ZSTD_findFrameCompressedSize', POINTER, SIZE)
      # Errors are the highest values of size_t (zstd_errors.h).
      ERRORS_ABOVE = -120

      module_function

      # @param data [String]
      # @param level [Integer] 1 to 19
      # @return [String] one frame
      def compress(data, level: 3)
        room = "\0".b * BOUND.call(data.bytesize)
        size = checked(COMPRESS.call(room, room.bytesize, data, data.bytesize, level))
        room.byteslice(0, size)
      end

      # @param data [String] a frame, and perhaps bytes of something else behind it
      # @param size [Integer] bytes that it must hold
      # @return [String] exactly +size+ bytes
      # @raise [Damaged]
      def decompress(data, size)
        frame = checked(FRAME_SIZE.call(data, data.bytesize))
        out = "\0".b * size
        got = checked(DECOMPRESS.call(out, size, data, frame))
        return out if got == size

        raise Damaged.new("a compressed block holds #{got} bytes instead of #{size}", where: 'zstd frame')
      end

      def checked(result)
        # fiddle gives size_t as a signed number on some versions
        signed = [result].pack('q<').unpack1('q<') if result.bit_length < 64
        signed ||= result - (1 << 64)
        return result unless signed.negative? && signed >= ERRORS_ABOVE

        raise Damaged.new('a compressed block is broken', where: 'zstd frame')
      end
      private_class_method :checked
    end
  end
end
