# frozen_string_literal: true

require 'fiddle'

module Evrel
  module Linux
    # Memory that a process shares with those that it forks: mmap(2) with
    # MAP_SHARED | MAP_ANONYMOUS. It is gone with the last of them.
    class SharedMemory
      READ_WRITE = 0x1 | 0x2
      SHARED_ANONYMOUS = 0x01 | 0x20
      LIBC = Fiddle.dlopen(nil)
      MMAP = Fiddle::Function.new(LIBC['mmap'], [Fiddle::TYPE_VOIDP, Fiddle::TYPE_SIZE_T, Fiddle::TYPE_INT, Fiddle::TYPE_INT,
                                                 Fiddle::TYPE_INT, Fiddle::TYPE_LONG_LONG], Fiddle::TYPE_INTPTR_T)
      PWRITE = Fiddle::Function.new(LIBC['pwrite'], [Fiddle::TYPE_INT, Fiddle::TYPE_VOIDP, Fiddle::TYPE_SIZE_T, Fiddle::TYPE_LONG_LONG],
                                    Fiddle::TYPE_LONG_LONG)
      MUNMAP = Fiddle::Function.new(LIBC['munmap'], [Fiddle::TYPE_VOIDP, Fiddle::TYPE_SIZE_T], Fiddle::TYPE_INT)

      # @param size [Integer] bytes
      # @raise [Unreadable] where there is not so much
      def initialize(size)
        @size = size
        address = MMAP.call(nil, size, READ_WRITE, SHARED_ANONYMOUS, -1, 0)
        raise Unreadable.new("#{Units.bytes(size)} of memory to share are not to be had", where: 'memory') if address == -1

        @pointer = Fiddle::Pointer.new(address, size)
      end

      # @param buffer [String] of at least +length+ bytes; its beginning is replaced
      def read_into(buffer, offset, length)
        buffer.setbyte(0, 0) # copies share the bytes until Ruby itself writes to one of them
        Fiddle::Pointer[buffer][0, length] = @pointer + offset
        buffer
      end

      def write(offset, bytes)
        raise OutOfRange.new("#{bytes.bytesize} bytes do not fit", where: 'memory') if offset + bytes.bytesize > @size

        @pointer[offset, bytes.bytesize] = bytes
      end

      # Writes from here into a file: nothing is copied on the way.
      # @param io [IO]
      # @param offset [Integer] byte of the file
      # @param at [Integer] byte here
      # @param length [Integer] bytes, all of which are written, or an error raised
      # @raise [SystemCallError]
      def put(io, offset, at, length)
        while length.positive?
          taken = PWRITE.call(io.fileno, @pointer + at, length, offset)
          raise SystemCallError.new(nil, Fiddle.last_error) if taken.negative?

          offset += taken
          at += taken
          length -= taken
        end
      end

      # Whoever still wants something of it gets an error.
      def close
        MUNMAP.call(@pointer, @size)
        @pointer = nil
      end
    end
  end
end
