# frozen_string_literal: true

# Bytes as a disk, some of them replaced: the original is shared, not copied.
class SpoiledDisk
  include Evrel::Disk

  attr_reader :size, :logical_sector

  # @param bytes [String]
  # @param patches [Hash{Integer=>String}] byte offset → what stands there instead
  # @param size [Integer] bytes; what lies behind the bytes is zero
  def initialize(bytes, patches = {}, size: bytes.bytesize)
    @bytes = bytes
    @patches = patches
    @size = size / 512 * 512
    @logical_sector = 512
  end

  def physical_sector = 4096
  def writable? = false
  def fork_safe? = false
  def close; end

  def read_bytes(offset, length)
    got = (@bytes.byteslice(offset, length) || ''.b).ljust(length, "\0".b)
    @patches.each do |at, put|
      from = [at, offset].max
      to = [at + put.bytesize, offset + length].min
      got[from - offset, to - from] = put.byteslice(from - at, to - from) if to > from
    end
    got
  end

  def extents
    return enum_for(:extents) unless block_given?

    yield 0, size
  end
end
