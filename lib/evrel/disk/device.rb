# frozen_string_literal: true

module Evrel
  module Disk
    # A block device of this machine. To be written it is opened for nobody else:
    # the kernel refuses that where it, or a partition of it, is mounted or used
    # in any other way (O_EXCL without O_CREAT, open(2)).
    class Device < File
      READ_TABLE = 0x125F # BLKRRPART, <linux/fs.h>

      # @param path [String]
      # @param writable [Boolean]
      # @raise [Unreadable] no such device, or no right to it
      # @raise [Refused] where this machine uses it
      def initialize(path, writable:, io: nil, **)
        @device = Linux::BlockDevice.new(::File.stat(path))
        super(path, writable:, logical_sector: @device.logical_sector, physical_sector: @device.physical_sector, io:)
      rescue SystemCallError => e
        raise Unreadable.new("#{path} cannot be opened: #{reason(e)}", where: path)
      end

      # @return [String, nil] that it says it has
      def serial = @device.serial

      def discards_to_zero? = @device.zeroes?

      # Without a command for it there is nothing to be gained.
      def discard_bytes(offset, length) = (super if discards_to_zero?)

      # It does not say where nothing was ever written.
      def extents
        return enum_for(:extents) unless block_given?

        yield 0, size
      end

      # Other programs are shown the partitions that are there now.
      def close
        tell_kernel if writable?
        super
      end

      private

      def bytes = @io.sysseek(0, IO::SEEK_END)

      def open_io(io)
        io ||= ::File.open(path, @writable ? ::File::RDWR | ::File::EXCL | ::File::BINARY : 'rb')
        raise Unreadable.new("#{path} is no block device", where: path) unless io.stat.blockdev?
        return io if !@writable || locked?(io)

        raise Refused.new("#{path} is being written by another process", where: path)
      rescue Errno::EBUSY
        raise Refused.new("#{path} is in use: this machine has mounted it, or runs from it", where: path,
                                                                                             hint: 'unmount it, or choose another')
      end

      def tell_kernel
        @io.ioctl(READ_TABLE)
      rescue SystemCallError, IOError
        nil # it knows no partitions, or is closed already
      end
    end
  end
end
