# frozen_string_literal: true

module Evrel
  module Startup
    # What an emulated machine says, on its serial line and on its screen, and
    # the way on which it is answered.
    class Said
      EVERY = 2.0     # seconds between two looks at the screen
      KEY = 0.15      # seconds for each that is pressed: a keyboard loses what comes faster
      BEHIND = 4.0    # so long after the last word on the serial line, the screen tells more
      COLOURED = 32   # more colours than any text has
      LOOKED_ON = 0.25 # share of one processor that a system needs while it waits for somebody

      # @param emulator [Emulator] a started one
      def initialize(emulator)
        @emulator = emulator
        @console = Console.new(emulator)
        @transcript = Transcript.new
        @line = @screen = ''
        @spoke = { line: 0.0, screen: 0.0 }
        @changes = 0
      end

      # Takes what is new.
      # @param seconds [Float] since the start
      def listen(seconds)
        hear(:line, @emulator.said, seconds)
        read_screen(seconds) if @screen_read.nil? || seconds - @screen_read >= EVERY
      end

      # @return [Array<String>] all that was said, each for itself
      def texts = [@emulator.firmware_said + @line, @screen]

      # @return [Symbol, nil] :line or :screen, where the text stands
      def find(text) = %i[line screen].find { |source| text.is_a?(Regexp) ? on(source).match?(text) : on(source).include?(text) }

      # @param source [Symbol] :line or :screen
      # @return [String]
      def on(source) = source == :line ? @line : @screen

      # @return [Symbol] where it speaks now; on both, it is heard on the serial line
      def source = @spoke[:screen] > @spoke[:line] + BEHIND ? :screen : :line

      # @return [Array<Integer>] changes whenever something new is said or shown
      def sign = [@line.bytesize, @screen.bytesize, @changes]

      # @param text [String] typed where it speaks
      # @param source [Symbol]
      def answer(text, source = self.source)
        return @emulator.type(text) if source == :line

        Keyboard.keys(text).each do |keys|
          @emulator.press(keys)
          sleep KEY
        end
      end

      # How long the screen shows a picture in which no text can be read, and the system does next to nothing.
      # @param seconds [Float] since the start
      # @return [Float] seconds
      def waiting(seconds)
        return 0.0 unless @frame && picture?(@frame)

        still = seconds - @still_from
        still.positive? && (@emulator.processor_seconds - @still_used) / still < LOOKED_ON ? still : 0.0
      end

      private

      def hear(source, text, seconds)
        return if text.bytesize == on(source).bytesize

        @spoke[source] = seconds
        source == :line ? @line = text : @screen = text
      end

      def read_screen(seconds)
        @screen_read = seconds
        frame = @emulator.frame or return
        change(frame, seconds) unless frame.like?(@frame)
        # Behind a picture the console goes on, and nobody sees it.
        rows = picture?(frame) ? [] : @console.rows(frame, seconds)
        @transcript.add(rows) if rows.any?
        hear(:screen, @transcript.to_s, seconds)
      end

      def picture?(frame) = frame.colours > COLOURED

      def change(frame, seconds)
        @frame = frame
        @changes += 1
        @still_from = seconds
        @still_used = @emulator.processor_seconds
      end
    end
  end
end
