# frozen_string_literal: true

module Evrel
  module Archive
    # A .tar as POSIX.1-2001 describes it (pax): long names and large sizes in
    # records of their own.
    class Tar
      BLOCK = 512
      NAME = 100         # bytes of a name in the header itself
      SIZE = 8**11       # from here on a size needs a record

      # @param out [#<<]
      def initialize(out)
        @out = out
      end

      def folder(name, time) = header("#{name}/", 0, time, '5', 0o755)

      # @param size [Integer] bytes that the block will give; fewer are filled up
      # @param digest [#<<, nil] is given exactly what goes into the archive
      # @yieldparam sink [#<<]
      def file(name, time, size, digest: nil)
        header(name, size, time, '0', 0o644)
        sink = Sink.new(@out, size, digest)
        yield sink
        sink.fill
        pad(size)
      end

      def close = @out << ("\0".b * (2 * BLOCK))

      # Passes bytes on, exactly as many as the header has promised.
      class Sink
        def initialize(out, left, digest)
          @out = out
          @left = left
          @digest = digest
        end

        def <<(bytes)
          piece = bytes.byteslice(0, @left)
          @left -= piece.bytesize
          @digest << piece if @digest
          @out << piece
          self
        end

        def fill
          self << ("\0".b * [@left, MIB].min) while @left.positive?
        end
      end

      private

      def header(name, size, time, type, mode)
        records = { 'mtime' => time.to_f.round(3).to_s }
        records['path'] = name if name.bytesize > NAME || !name.ascii_only?
        records['size'] = size.to_s if size >= SIZE
        extended(records)
        block(name.b.byteslice(0, NAME), size % SIZE, time, type, mode)
      end

      def extended(records)
        body = records.map { |key, value| record("#{key}=#{value}\n") }.join
        block('PaxHeaders/next', body.bytesize, Time.at(0), 'x', 0o644)
        @out << body
        pad(body.bytesize)
      end

      # A record begins with its own length, that number included.
      def record(text)
        length = text.bytesize + 3
        length += 1 until "#{length} #{text}".bytesize == length
        "#{length} #{text}".b
      end

      # ustar: name 100, mode 8, owner 8, group 8, size 12, time 12, checksum 8, type 1, link 100, magic and version 8.
      def block(name, size, time, type, mode)
        seconds = time.to_i.clamp(0, SIZE - 1)
        bytes = [name, format('%07o', mode), '0000000', '0000000', format('%011o', size), format('%011o', seconds), ' ' * 8, type, '',
                 'ustar', '00'].pack('a100a8a8a8a12a12a8a1a100a6a2').ljust(BLOCK, "\0".b)
        bytes[148, 8] = format("%06o\0 ", bytes.sum(32))
        @out << bytes
      end

      def pad(size) = @out << ("\0".b * (-size % BLOCK))
    end
  end
end
