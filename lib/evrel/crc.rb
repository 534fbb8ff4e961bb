# frozen_string_literal: true

require 'fiddle'

module Evrel
  # The check sums of file systems, by the library that checks those: libext2fs
  # (lib/ext2fs/ext2fs.h). Both begin with a value and are not inverted at their
  # end, so that one goes on from another.
  module Crc
    ALL = 0xFFFF_FFFF
    LIBRARY = Fiddle.dlopen('libext2fs.so.2')
    OF32 = Fiddle::Function.new(LIBRARY['ext2fs_crc32c_le'], [-Fiddle::TYPE_INT, Fiddle::TYPE_VOIDP, Fiddle::TYPE_SIZE_T],
                                -Fiddle::TYPE_INT)
    OF16 = Fiddle::Function.new(LIBRARY['ext2fs_crc16'], [-Fiddle::TYPE_SHORT, Fiddle::TYPE_VOIDP, -Fiddle::TYPE_INT],
                                -Fiddle::TYPE_SHORT)
    private_constant :LIBRARY, :OF32, :OF16

    module_function

    # CRC-32C (polynomial 0x1EDC6F41, reflected).
    # @param bytes [String]
    # @param seed [Integer] what it begins with
    # @return [Integer] of 32 bits
    def c32(bytes, seed = ALL) = OF32.call(seed, bytes, bytes.bytesize)

    # CRC-16 (polynomial 0x8005, reflected).
    # @param bytes [String]
    # @param seed [Integer] what it begins with
    # @return [Integer] of 16 bits
    def c16(bytes, seed = 0xFFFF) = OF16.call(seed, bytes, bytes.bytesize)
  end
end
