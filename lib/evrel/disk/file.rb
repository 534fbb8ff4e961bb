# frozen_string_literal: true

module Evrel
  module Disk
    # A disk in a regular file (sparse or not).
    class File
      include Disk

      attr_reader :path, :size, :logical_sector, :physical_sector

      # @param path [String]
      # @param writable [Boolean] takes an exclusive lock on the file
      # @param logical_sector [Integer] bytes
      # @param physical_sector [Integer] bytes
      # @param io [::File, nil] where somebody else has opened it, this is it, and closed with the disk
      # @yieldparam disk [File] closed after the block
      # @raise [Unreadable] no such file, no right to it, or not a regular file
      # @raise [Refused] when another process writes to it
      def self.open(path, writable: false, logical_sector: 512, physical_sector: 4096, io: nil)
        disk = new(path, writable:, logical_sector:, physical_sector:, io:)
        return disk unless block_given?

        begin
          yield disk
        ensure
          disk.close
        end
      end

      # Makes an empty sparse file of +size+ bytes.
      def self.create(path, size)
        ::File.open(path, ::File::WRONLY | ::File::CREAT | ::File::EXCL) { |io| io.truncate(size) }
      end

      def initialize(path, writable:, logical_sector:, physical_sector:, io: nil)
        @path = path
        @writable = writable
        @logical_sector = logical_sector
        @physical_sector = physical_sector
        @io = open_io(io)
        # Bytes behind the last whole sector cannot be addressed.
        @size = bytes / logical_sector * logical_sector
      end

      def writable? = @writable
      def discards_to_zero? = true
      def fork_safe? = true
      def shared_io = @io
      def as_file = yield(path)

      def read_bytes(offset, length)
        data = pread(offset, length)
        data << pread(offset + data.bytesize, length - data.bytesize) while data.bytesize < length
        data
      end

      def read_bytes_into(buffer, offset, length)
        return buffer.clear if length.zero?

        pread(offset, length, buffer)
        buffer << pread(offset + buffer.bytesize, length - buffer.bytesize) while buffer.bytesize < length
        buffer
      end

      def write_bytes(offset, data)
        Room.put(@io, data, offset)
      rescue SystemCallError => e
        raise Unreadable.new("#{path} cannot be written: #{reason(e)}", where: "byte #{offset}")
      end

      def discard_bytes(offset, length)
        return if Linux::Holes.punch(@io, offset, length)

        # A file system without holes: zeros do the same, at a price.
        zeros = "\0".b * MIB
        offset.step(offset + length - 1, MIB) do |at|
          write_bytes(at, zeros.byteslice(0, [MIB, offset + length - at].min))
        end
      end

      def flush
        @io.fsync
      rescue SystemCallError => e
        raise Unreadable.new("#{path} cannot be written out: #{reason(e)}", where: path)
      end

      # POSIX_FADV_DONTNEED: only what has been flushed leaves the page cache.
      def drop_cache = @io.advise(:dontneed, 0, 0)

      def extents
        return enum_for(:extents) unless block_given?

        at = 0
        while at < size
          from = seek_to(at, IO::SEEK_DATA) or break
          to = [seek_to(from, IO::SEEK_HOLE) || size, size].min
          yield from, to - from if to > from
          at = to
        end
      end

      def close = @io.close

      private

      def bytes = @io.size

      def open_io(io)
        io ||= ::File.open(path, @writable ? 'r+b' : 'rb')
        raise Unreadable.new("#{path} is not a regular file", where: path) unless io.stat.file?
        return io if !@writable || locked?(io)

        raise Refused.new("#{path} is being written by another process", where: path)
      rescue SystemCallError => e
        raise Unreadable.new("#{path} cannot be opened: #{reason(e)}", where: path)
      end

      # Those that wrote for a process that was just killed may hold it a moment longer.
      def locked?(io)
        10.times do
          return true if io.flock(::File::LOCK_EX | ::File::LOCK_NB)

          sleep 0.1
        end
        false
      end

      def pread(offset, length, buffer = nil)
        buffer ? @io.pread(length, offset, buffer) : @io.pread(length, offset)
      rescue EOFError
        raise Unreadable.new("#{path} ends early", where: "byte #{offset}")
      rescue SystemCallError => e
        raise Unreadable.new("#{path} cannot be read: #{reason(e)}", where: "byte #{offset}")
      end

      def seek_to(offset, whence)
        @io.seek(offset, whence)
        @io.pos
      rescue Errno::ENXIO
        nil # no more data behind this offset
      end

      def reason(error) = error.message.sub(/ @ .*/, '').downcase
    end
  end
end
