# frozen_string_literal: true

require 'tempfile'

module Evrel
  module Startup
    # An initial ramdisk: one archive behind the other, plain ones first, of
    # which the last may be compressed as a whole. What a later one holds takes
    # the place of what an earlier one has under the same name.
    class Ramdisk
      # The first bytes of a compressed archive → how it is unpacked.
      PACKED = { "\x1F\x8B".b => %w[gzip -dc], "\x28\xB5\x2F\xFD".b => %w[zstd -dcq --memory=512MB],
                 "\xFD7zXZ".b => %w[xz -dc --memlimit-decompress=512MiB], 'BZh' => %w[bzip2 -dc],
                 "\x02\x21\x4C\x18".b => %w[lz4 -dcq], "\x89LZO".b => %w[lzop -dcq],
                 "\x5D\x00\x00".b => %w[xz -dc --format=lzma --memlimit-decompress=512MiB] }.freeze
      # A hostile one may unpack for ever.
      LARGEST = 4 * GIB
      MOST_ENTRIES = 200_000
      MOST_STARTS = 2000 # names in an archive begin so too
      MODULE = /\.ko(?:\.(?:gz|xz|zst))?\z/
      # Lists of modules that are loaded before the root is mounted: of initramfs-tools, and of systemd.
      LISTS = %r{\A(?:conf/modules|etc/modules|etc/modules-load\.d/.*\.conf|usr/lib/modules-load\.d/.*\.conf)\z}
      LIST_SIZE = 64 * KIB

      # @param volume [Volume] browsable
      # @param path [String]
      # @return [Ramdisk]
      # @raise [Damaged] with what is wrong in it
      # @raise [NotFound]
      def self.read(volume, path)
        Tempfile.create('evrel-ramdisk', binmode: true) do |file|
          volume.read_file(path) { |piece| file.write(piece) }
          file.flush
          new.tap { |ramdisk| ramdisk.take(file) }
        end
      end

      attr_reader :names, :lists

      def initialize
        @names = {}
        @lists = {}
        @bytes = 0
      end

      # @return [Array<String>] names of modules as `lsmod` says them, so far as they lie in it
      def modules = @modules ||= names.keys.grep(MODULE).map { |name| Ramdisk.module_name(name) }.uniq

      # @param path [String]
      # @return [String]
      def self.module_name(path) = ::File.basename(path).sub(MODULE, '').tr('-', '_')

      # @api private
      # What was read of another takes the place of what was read before.
      def merge(other)
        @names.merge!(other.names)
        @lists.merge!(other.lists)
        @modules = nil
      end

      # @api private
      # @param file [File]
      def take(file)
        file.rewind
        while (first = next_archive(file))
          packed = PACKED.keys.find { |magic| first.start_with?(magic) }
          return unpack(file, PACKED.fetch(packed)) && behind(file) if packed

          archive(file, first)
        end
      end

      # @api private
      # Archives that are not packed, up to the end of the file.
      def plain(file)
        while (first = next_archive(file))
          archive(file, first)
        end
      end

      private

      # Between two archives there may be zeros, four at a time.
      # @return [String, nil] the first six bytes of the next one; nil at the end
      def next_archive(io)
        first = io.read(4)
        first = io.read(4) while first == "\0\0\0\0"
        first && (first + io.read(Cpio::MAGIC.size - 4).to_s)
      end

      def archive(io, first)
        raise Damaged.new('it is no archive', where: 'initial ramdisk') unless [Cpio::MAGIC, Cpio::WITH_SUMS].include?(first)

        Cpio.each(io, first) do |entry, contents|
          @names[entry.name] = entry.size
          @lists[entry.name] = contents.call(LIST_SIZE).force_encoding('UTF-8').scrub if entry.file? && entry.name.match?(LISTS)
          @bytes += entry.size
          raise Damaged.new('it holds too much', where: 'initial ramdisk') if @names.size > MOST_ENTRIES || @bytes > LARGEST
        end
      end

      # The rest of it, through the tool of its format, which reads from where the file stands.
      def unpack(file, command)
        file.seek(-Cpio::MAGIC.size, IO::SEEK_CUR)
        output, input = IO.pipe(binmode: true)
        process = Tool.start(*command, redirections: { in: file, out: input, err: ::File::NULL })
        input.close
        take_unpacked(output)
      ensure
        output&.close
        Process.wait(process) if process
      end

      # Plain archives may follow on one that is packed, whose end only its tool knows: found by their first bytes, and by
      # their reaching to the end of the file.
      def behind(file)
        starts(file).each do |at|
          file.seek(at)
          return merge(Ramdisk.new.tap { |ramdisk| ramdisk.plain(file) })
        rescue Damaged
          next # it only looked like one
        end
      end

      # @return [Array<Integer>] places at which one may begin: they lie on four bytes
      def starts(file)
        file.rewind
        found = []
        before = ''.b
        while found.size < MOST_STARTS && (piece = file.read(MIB))
          base = file.pos - piece.bytesize - before.bytesize
          text = before + piece
          at = -1
          found << (base + at) while (at = text.index(Cpio::MAGIC, at + 1)) && found.size < MOST_STARTS
          before = text.byteslice(-[text.bytesize, Cpio::MAGIC.size - 1].min..)
        end
        found.select { |place| (place % 4).zero? }.uniq
      end

      def take_unpacked(io)
        found = false
        while (first = next_archive(io))
          found = true
          archive(io, first)
        end
        raise Damaged.new('it cannot be unpacked', where: 'initial ramdisk') unless found

        true
      end
    end
  end
end
