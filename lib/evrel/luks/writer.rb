# frozen_string_literal: true

module Evrel
  module Luks
    # A container that is being filled, with as much of IO as whoever fills it
    # needs. Its size is that of what it holds, in whole sectors.
    class Writer
      # @param path [String] must not exist
      # @param passphrase [String]
      # @return [Writer]
      def self.create(path, passphrase)
        front, key = Header.made(passphrase)
        io = ::File.open(path, ::File::RDWR | ::File::CREAT | ::File::EXCL | ::File::BINARY, 0o600)
        Room.put(io, front, 0)
        new(io, front.bytesize, key)
      end

      # Goes on with one.
      # @raise [Locked]
      def self.open(path, passphrase)
        io = ::File.open(path, ::File::RDWR | ::File::BINARY)
        header = Disk::File.open(path) { |source| Header.read(source).then { |read| [read.payload, read.key(source, passphrase)] } }
        new(io, *header)
      rescue StandardError
        io&.close
        raise
      end

      def initialize(io, payload, key)
        @io = io
        @payload = payload
        @sectors = Sectors.new(key)
        @at = 0
      end

      def size = @io.size - @payload

      # Where it does not begin or end with a sector, the rest of that stays.
      def pwrite(bytes, offset)
        first = offset / SECTOR
        below = (offset + bytes.bytesize + SECTOR - 1) / SECTOR
        whole = bytes.bytesize == (below - first) * SECTOR ? bytes : laid(bytes, offset, first, below)
        Room.put(@io, @sectors.encrypt(whole, first), @payload + (first * SECTOR))
        bytes.bytesize
      end

      def pread(length, offset)
        first = offset / SECTOR
        below = [(offset + length + SECTOR - 1) / SECTOR, size / SECTOR].min
        bytes = @io.pread((below - first) * SECTOR, @payload + (first * SECTOR))
        @sectors.decrypt(bytes, first).byteslice(offset - (first * SECTOR), length)
      end

      def write(bytes)
        pwrite(bytes, @at)
        @at += bytes.bytesize
      end

      # @param offset [Integer] byte at which `write` goes on
      def seek(offset) = @at = offset

      def truncate(bytes) = @io.truncate(@payload + ((bytes + SECTOR - 1) / SECTOR * SECTOR))
      def fdatasync = @io.fdatasync
      def fsync = @io.fsync
      def close = @io.close

      private

      def laid(bytes, offset, first, below)
        whole = "\0".b * ((below - first) * SECTOR)
        [first, below - 1].uniq.each do |sector|
          whole[(sector - first) * SECTOR, SECTOR] = pread(SECTOR, sector * SECTOR) if (sector + 1) * SECTOR <= size
        end
        whole[offset - (first * SECTOR), bytes.bytesize] = bytes
        whole
      end
    end
  end
end
