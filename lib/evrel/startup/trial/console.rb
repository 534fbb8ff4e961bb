# frozen_string_literal: true

module Evrel
  module Startup
    # The text on a machine's screen, read from where its console keeps it, a
    # character and a colour for each cell: in text mode in the memory of the
    # graphics card, else in the memory of the kernel (Linux,
    # drivers/tty/vt/vt.c, vc_screenbuf). No font has to be known for that.
    class Console
      TEXT_MODE = [720, 400].freeze # pixels of 80 by 25 characters
      COLUMNS = 80
      ROWS = 25
      GLYPH = [8, 16].freeze # pixels, as the kernel's own font and those of installers have
      CELL = 2 # bytes
      # Cells on which nothing stands: grey on black, and the same with a font of 512 characters.
      COLOURS = [0x07, 0x0E].freeze
      BLANK = COLOURS.map { |colour| [0x20, colour].pack('CC') * 64 }.freeze
      PIECE = 8 * MIB
      PAGE = 4 * KIB
      PLAIN = 0.9 # share of its cells that have one of these colours
      SEARCH = 5.0 # seconds between two searches

      # @param emulator [Emulator]
      def initialize(emulator)
        @emulator = emulator
        @places = []
      end

      # @param frame [Frame] the screen now
      # @param seconds [Float] since the start
      # @return [Array<String>] its rows, without the empty ones at the end; none where it shows no text that can be read
      def rows(frame, seconds)
        return text_mode if [frame.width, frame.height] == TEXT_MODE

        columns = frame.width / GLYPH.first
        size = columns * (frame.height / GLYPH.last) * CELL
        memory = @emulator.memory or return []
        text_at(memory, columns, size) || searched(memory, columns, size, seconds)
      end

      private

      def text_mode
        bytes = @emulator.text_mode(COLUMNS * ROWS * CELL)
        bytes ? lines(bytes, COLUMNS) : []
      end

      # Of several consoles the one that says most.
      def text_at(memory, columns, size)
        @places.filter_map { |place| text(memory, place, columns, size) }.reject(&:empty?).max_by { |rows| rows.sum(&:size) }
      end

      # @return [Array<String>, nil] nil where no console is
      def text(memory, place, columns, size)
        bytes = memory.pread(size, place)
        lines(bytes, columns) if bytes.bytesize == size && cells?(bytes)
      rescue EOFError
        nil
      end

      def searched(memory, columns, size, seconds)
        return [] if @searched && seconds - @searched < SEARCH

        @searched = seconds
        @places = places(memory, size)
        text_at(memory, columns, size) || []
      end

      # The kernel gives what is as large as a power of two a place at a multiple of it.
      def places(memory, size)
        unit = [PAGE, 1 << (size - 1).bit_length].max
        found = []
        pieces(memory) do |at, bytes|
          BLANK.each do |blank|
            from = 0
            while (from = bytes.index(blank, from))
              found << ((at + from) / unit * unit)
              from = (from / PAGE * PAGE) + PAGE
            end
          end
        end
        found.uniq
      end

      # Yields place and bytes of all memory that was ever used.
      def pieces(memory)
        at = 0
        loop do
          memory.seek(at, IO::SEEK_DATA)
          at = memory.pos
          memory.seek(at, IO::SEEK_HOLE)
          below = memory.pos
          while at < below
            bytes = memory.pread([PIECE, below - at].min, at)
            yield at, bytes
            at += bytes.bytesize
          end
        end
      rescue Errno::ENXIO
        nil # no more behind it
      end

      def cells?(bytes)
        cells = bytes.unpack('v*')
        cells.count { |cell| COLOURS.include?(cell >> 8) } >= cells.size * PLAIN
      end

      def lines(bytes, columns)
        text = bytes.unpack('v*').map { |cell| character(cell & 0xFF) }.pack('C*').force_encoding('US-ASCII')
        text.scan(/.{1,#{columns}}/m).map(&:rstrip).reverse.drop_while(&:empty?).reverse
      end

      # Nothing, and what stands for no character that is known without the font.
      def character(code)
        return code if code.between?(0x20, 0x7E)

        code.zero? ? 0x20 : 0x2E
      end
    end
  end
end
