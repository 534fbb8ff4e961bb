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
      COMPRESS = function('ZSTD_compressCCtx', POINTER, POINTER, SIZE, POINTER, SIZE, Fiddle::TYPE_INT)
      DECOMPRESS = function('ZSTD_decompressDCtx', POINTER, POINTER, SIZE, POINTER, SIZE)
      FRAME_SIZE = function('ZSTD_findFrameCompressedSize', POINTER, SIZE)
      # Of programs and libraries it leaves 42.3 % (level 1: 43.9, level 3: 41.8) in four fifths of the time of level 3.
      LEVEL = 2
      # Errors are the highest values of size_t (zstd_errors.h).
      ERRORS_ABOVE = -120

      # Each thread keeps one of both: making it anew costs as much as a cluster.
      def self.context(kind)
        Thread.current[:"evrel_zstd_#{kind}"] ||= begin
          made = Fiddle::Function.new(LIBRARY["ZSTD_create#{kind}"], [], POINTER).call
          Fiddle::Pointer.new(made, 0, Fiddle::Function.new(LIBRARY["ZSTD_free#{kind}"], [POINTER], SIZE))
        end
      end
      private_class_method :context

      # Each thread keeps one too: a new one for each cluster costs more memory than all else.
      def self.room_for(size)
        kept = Thread.current[:evrel_zstd_room]
        kept && kept.bytesize >= size ? kept : Thread.current[:evrel_zstd_room] = "\0".b * size
      end
      private_class_method :room_for

      module_function

      # @param data [String]
      # @param level [Integer] -7 to 19
      # @return [String] one frame
      def compress(data, level: LEVEL)
        room = room_for(BOUND.call(data.bytesize))
        size = checked(COMPRESS.call(context(:CCtx), room, room.bytesize, data, data.bytesize, level))
        room.unpack1("a#{size}") # a copy in any case: the room is used again
      end

      # @param data [String] a frame, and perhaps bytes of something else behind it
      # @param size [Integer] bytes that it must hold
      # @return [String] exactly +size+ bytes
      # @raise [Damaged]
      def decompress(data, size) = decompress_into("\0".b * size, data, 0, data.bytesize)

      # As `decompress`, without making strings.
      # @param data [String]
      # @param offset [Integer] byte of +data+ at which the frame begins
      # @param length [Integer] bytes from there on that may belong to it
      # @param out [String] of as many bytes as the frame must hold; they are replaced
      # @raise [Damaged]
      def decompress_into(out, data, offset, length)
        raise Damaged.new('a compressed block lies outside of what was read', where: 'zstd frame') if offset + length > data.bytesize

        unshare(out)
        source = Fiddle::Pointer[data] + offset
        got = checked(DECOMPRESS.call(context(:DCtx), out, out.bytesize, source, checked(FRAME_SIZE.call(source, length))))
        return out if got == out.bytesize

        raise Damaged.new("a compressed block holds #{got} bytes instead of #{out.bytesize}", where: 'zstd frame')
      end

      def checked(result)
        # fiddle gives size_t as a signed number on some versions
        signed = [result].pack('q<').unpack1('q<') if result.bit_length < 64
        signed ||= result - (1 << 64)
        return result unless signed.negative? && signed >= ERRORS_ABOVE

        raise Damaged.new('a compressed block is broken', where: 'zstd frame')
      end

      # A copy (dup, byteslice) shares its bytes with the string until Ruby writes to one of them; Ruby does not see
      # what the library writes.
      def unshare(string) = string.empty? || string.setbyte(0, 0)
      private_class_method :checked, :unshare
    end
  end
end
