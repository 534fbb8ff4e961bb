# frozen_string_literal: true

require 'openssl'

module Evrel
  module Archive
    # Reads a .tar.zst back: names and digests, nothing is unpacked. POSIX.1-2001
    # (pax): records in front of a header overrule its name and size.
    module TarReader
      BLOCK = 512
      PIECE = MIB

      module_function

      # @param path [String]
      # @yieldparam name [String]
      # @yieldparam sha [String] SHA-256 of the contents, in hexadecimal digits
      # @raise [Damaged] where it ends early
      def each(path, &)
        whole = Tool.stream(:from, path, 'zstd', '-q', '-d', '-c') { |io| entries(io, &) }
        raise Damaged.new("#{path} cannot be unpacked", where: path) unless whole
      end

      def entries(io)
        records = {}
        while (header = io.read(BLOCK)) && header != "\0" * BLOCK
          raise Damaged.new('the archive ends early', where: 'header') if header.bytesize < BLOCK

          # name 0, size 124 (octal), type 156
          size = (records['size'] || header[124, 12].oct).to_i
          if header[156] == 'x'
            records = pax(exactly(io, size))
            skip(io, size)
          else
            yield records['path'] || header[0, 100].delete("\0").force_encoding('UTF-8'), digest(io, size) if header[156] == '0'
            records = {}
          end
        end
        io.read(PIECE) until io.eof?
      end

      def pax(text)
        text.scan(/\d+ ([^=]+)=([^\n]*)\n/).to_h.transform_values { |value| value.dup.force_encoding('UTF-8') }
      end

      def digest(io, size)
        sha = OpenSSL::Digest.new('SHA256')
        left = size
        while left.positive?
          piece = exactly(io, [left, PIECE].min)
          sha << piece
          left -= piece.bytesize
        end
        skip(io, size)
        sha.hexdigest
      end

      # Contents are filled up to whole blocks.
      def skip(io, size) = exactly(io, -size % BLOCK)

      def exactly(io, length)
        return ''.b if length.zero?

        bytes = io.read(length)
        return bytes if bytes&.bytesize == length

        raise Damaged.new('the archive ends early', where: 'contents')
      end
      private_class_method :entries, :pax, :digest, :skip, :exactly
    end
  end
end
