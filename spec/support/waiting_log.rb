# frozen_string_literal: true

# Puts a log entry that waits to be replayed into a VHDX file ([MS-VHDX], 2.3).
module WaitingLog
  GUID = (1..16).to_a.pack('C*').freeze
  SECTOR = 4096

  module_function

  # @param path [String] of a VHDX whose log is empty
  # @param offset [Integer] byte of the file, on a sector of 4 KiB
  # @param bytes [String] 4 KiB that are to be written there
  def put(path, offset, bytes)
    header, at = [65_536, 131_072].map { |place| [File.binread(path, SECTOR, place), place] }.max_by { |one, _| one.unpack1('@8Q<') }
    length, log = header.unpack('@68V@72Q<')
    raise 'no room for a log' if length < 2 * SECTOR

    File.binwrite(path, entry(offset, bytes, File.size(path)), log)
    header[8, 8] = [header.unpack1('@8Q<') + 1].pack('Q<')
    header[48, 16] = GUID
    File.binwrite(path, summed(header), at)
  end

  # A header of 64 bytes and one descriptor in the first sector, the data in the second. Of the data the first 8 and the last 4
  # bytes stand in the descriptor.
  def entry(offset, bytes, size)
    head = ['loge', 0, 2 * SECTOR, 0, 7, 1, 0].pack('a4V3Q<V2') + GUID + [size, size].pack('Q<2')
    descriptor = 'desc'.b + bytes.byteslice(-4, 4) + bytes.byteslice(0, 8) + [offset, 7].pack('Q<2')
    data = ['data', 0].pack('a4V') + bytes.byteslice(8, SECTOR - 12) + [7].pack('V')
    summed((head + descriptor).ljust(SECTOR, "\0".b) + data)
  end

  def summed(bytes)
    bytes = bytes.dup
    bytes[4, 4] = "\0\0\0\0".b
    bytes[4, 4] = [Evrel::Crc.c32(bytes) ^ Evrel::Crc::ALL].pack('V')
    bytes
  end
end
