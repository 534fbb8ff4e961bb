# frozen_string_literal: true

module Evrel
  module Startup
    # Archives in the format of initial ramdisks, "newc" (Linux's
    # Documentation/driver-api/early-userspace/buffer-format.rst): a header of
    # 110 characters in hexadecimal, the name, the contents, each filled up to
    # four bytes; the last name is TRAILER!!!.
    module Cpio
      MAGIC = '070701'
      WITH_SUMS = '070702'
      HEADER = 110
      TRAILER = 'TRAILER!!!'
      LONGEST_NAME = 4096
      MODES = { directory: 0o040755, file: 0o100644, program: 0o100755, symlink: 0o120777 }.freeze

      # mode as stat(2) has it; size in bytes
      Entry = Struct.new(:name, :mode, :size) do
        def file? = mode & 0o170000 == 0o100000
      end

      module_function

      # Reads one archive from a stream.
      # @param io [#read]
      # @param first [String] what was read of it already: its first six bytes
      # @yieldparam entry [Entry]
      # @yieldparam contents [#call] gives the contents, if it is called before the block returns
      # @raise [Damaged]
      def each(io, first = io.read(MAGIC.size))
        loop do
          name_size, entry = header(first, io)
          entry.name = name(io, name_size)
          return if entry.name == TRAILER

          taken = nil
          yield entry, ->(limit) { taken = exactly(io, [entry.size, limit].min) }
          skip(io, padded(entry.size, 0) - (taken&.bytesize || 0))
          first = io.read(MAGIC.size)
        end
      end

      # @param files [Array<(String, Symbol, String)>] name, one of MODES, contents
      # @return [String] an archive of them, filled up to 512 bytes
      def pack(files)
        bytes = files.each_with_index.map { |(name, mode, contents), index| packed(name, MODES.fetch(mode), contents, index + 1) }.join
        bytes << packed(TRAILER, 0, '', 0)
        bytes << ("\0" * (-bytes.bytesize % 512))
      end

      # @return [(Integer, Entry)]
      def header(first, io)
        unless [MAGIC, WITH_SUMS].include?(first)
          raise Damaged.new('an archive in the initial ramdisk is cut or mixed up', where: 'initial ramdisk')
        end

        fields = exactly(io, HEADER - MAGIC.size).unpack('a8' * 13)
        raise Damaged.new('an archive in the initial ramdisk has a broken header', where: 'initial ramdisk') unless
          fields.all?(/\A\h{8}\z/)

        [fields[11].hex, Entry.new(nil, fields[1].hex, fields[6].hex)]
      end

      def name(io, size)
        raise Damaged.new('a name in the initial ramdisk is too long', where: 'initial ramdisk') if size > LONGEST_NAME

        exactly(io, padded(size, HEADER)).unpack1('Z*').delete_prefix('./').delete_prefix('/')
      end

      # @return [Integer] size filled up so that what comes before it and itself end at four bytes
      def padded(size, before) = size + (-(size + before) % 4)

      def exactly(io, length)
        bytes = io.read(length).to_s
        return bytes if bytes.bytesize == length

        raise Damaged.new('an archive in the initial ramdisk ends early', where: 'initial ramdisk')
      end

      def skip(io, length)
        (0...length).step(MIB) { |at| exactly(io, [MIB, length - at].min) }
      end

      # Header fields: inode, mode, owner, group, links, time, size, four of devices, length of the name, sum.
      def packed(name, mode, contents, inode)
        head = [inode, mode, 0, 0, 1, 0, contents.bytesize, 0, 0, 0, 0, name.bytesize + 1, 0].map { |number| format('%08x', number) }.join
        bytes = "#{MAGIC}#{head}#{name}\0".b
        bytes << ("\0" * (-bytes.bytesize % 4)) << contents.b
        bytes << ("\0" * (-bytes.bytesize % 4))
      end
    end
  end
end
