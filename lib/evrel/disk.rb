# frozen_string_literal: true

require 'tmpdir'

module Evrel
  # The port through which everything sees a block device. A kind of disk
  # includes this module and implements:
  #
  #   size              bytes, a multiple of logical_sector
  #   logical_sector    bytes per LBA (512 or 4096)
  #   physical_sector   bytes
  #   writable?         may it be written
  #   read_bytes(o, n)  n bytes at byte offset o; the range is already checked
  #   write_bytes(o, s) and, where writable: discard_bytes(o, n), flush
  #
  # and may override `extents`, `discards_to_zero?`, `zero_bytes`, `read_bytes_into`, `drop_cache`, `fork_safe?`, `shared_io`,
  # `missing` and `as_file`. Offsets and lengths are bytes throughout. What stands before another disk is a Disk::Wrapper.
  # spec/contracts/disk.rb is the contract that every kind passes.
  module Disk
    # A disk by its path.
    # @param path [String] of a file, or of a block device
    # @param how [Hash] as File.open takes it; a device says by itself how large its sectors are
    # @yieldparam disk [File, Device] closed after the block
    # @raise [Unreadable, Refused]
    def self.at(path, **how, &) = (::File.blockdev?(path) ? Device : File).open(path, **how, &)

    # Puts pieces of a disk over bytes that were read of it.
    # @param bytes [String] binary; changed where a piece lies
    # @param offset [Integer] byte of the disk at which they begin
    # @param pieces [Array<(Integer, String)>] byte offset on the disk, and bytes
    # @return [String] the same bytes
    def self.lay(pieces, bytes, offset)
      pieces.each do |at, piece|
        first = [at, offset].max
        last = [at + piece.bytesize, offset + bytes.bytesize].min
        bytes[first - offset, last - first] = piece.byteslice(first - at, last - first) if last > first
      end
      bytes
    end

    # Reads exactly +length+ bytes at byte +offset+.
    # @return [String] binary, never shorter than asked; the caller's own, who may change it
    # @raise [OutOfRange] where the range leaves the disk
    # @raise [Unreadable] where the device does not give the bytes
    def read(offset, length)
      check_range(offset, length)
      return ''.b if length.zero?

      read_bytes(offset, length)
    end

    # As `read`, into a string that is there already: spares making one for each.
    # @param buffer [String] binary; its contents are replaced
    # @return [String] the buffer
    # @raise [OutOfRange, Unreadable]
    def read_into(buffer, offset, length)
      check_range(offset, length)
      read_bytes_into(buffer, offset, length)
    end

    # Writes all of +data+ at byte +offset+.
    # @raise [OutOfRange, Unreadable, Refused] the last on a read-only disk
    def write(offset, data)
      check_writable
      check_range(offset, data.bytesize)
      write_bytes(offset, data) unless data.empty?
    end

    # Gives the range back to the device. It reads as zeros afterwards on the
    # kinds that can promise it (see discards_to_zero?).
    def discard(offset, length)
      check_writable
      check_range(offset, length)
      discard_bytes(offset, length) unless length.zero?
    end

    # Makes the range read as zeros, whatever that takes.
    # @raise [OutOfRange, Unreadable, Refused] the last on a read-only disk
    def zero(offset, length)
      check_writable
      check_range(offset, length)
      zero_bytes(offset, length) unless length.zero?
    end

    # Whether a discarded range is known to read as zeros.
    def discards_to_zero? = false

    # Waits until all written bytes are on the device itself.
    def flush; end

    # Forgets cached bytes, so that the next read comes from the device.
    def drop_cache; end

    # Where there may be data; what lies outside reads as zeros.
    # @yieldparam offset [Integer] bytes
    # @yieldparam length [Integer] bytes
    def extents
      return enum_for(:extents) unless block_given?

      yield 0, size if size.positive?
    end

    def writable? = false

    # Whether a forked process can read it as well: it keeps no state and no line that two would share.
    def fork_safe? = false

    # @return [IO, nil] the open file or device itself, where nothing stands between it and this disk: other processes that are
    #   handed it read the same
    def shared_io = nil

    # The one way to a path for tools that want one: the file or the device itself, or a file that shows what is read of this
    # disk. What is written to such a file is lost; see Disk::Layer for tools that change something.
    # @yieldparam path [String]
    # @raise [Unsupported] where this machine cannot show it as a file
    def as_file(&)
      Dir.mktmpdir('evrel-shown') do |folder|
        Served.over(self) { |_, served| Shown.file(folder, ['--blockdev', served.blockdev('all')], 'all', size, &) }
      end
    end

    # @return [Array<(Integer, Integer)>, nil] byte offset and length of what cannot be read of a range, where that is known
    #   without asking for it; nil where it is not
    def missing(_offset, _length) = nil

    def close; end

    # What the kinds implement; the range is checked already.
    def read_bytes_into(buffer, offset, length) = buffer.replace(read_bytes(offset, length))

    def zero_bytes(offset, length)
      return discard_bytes(offset, length) if discards_to_zero?

      zeros = "\0".b * [length, MIB].min
      offset.step(offset + length - 1, MIB) { |at| write_bytes(at, zeros.byteslice(0, [MIB, offset + length - at].min)) }
    end

    private

    def check_range(offset, length)
      return if offset >= 0 && length >= 0 && offset + length <= size

      raise OutOfRange.new("bytes #{offset} to #{offset + length} are outside of a disk of #{size} bytes",
                           where: "byte #{offset}")
    end

    def check_writable
      raise Refused, 'this disk was opened read-only' unless writable?
    end
  end
end
