# frozen_string_literal: true

require 'tmpdir'

module Evrel
  module Startup
    # Starts an image or a disk in the emulator, on a throw-away overlay: the
    # disk itself is opened read-only. Ends by itself: when the awaited text
    # appears, when it is seen that it will come no further, when the emulator
    # ends, or when the caller stops it. A slow machine is given time: what counts
    # is how long nothing has moved: no new text, no other picture, no access to a disk.
    class Trial
      PROMPT = Course::MILESTONES[:login]
      LINES = 12
      MOST_TEXT = 64 * KIB # of what it says that is kept
      EVERY = 0.25         # seconds between two looks at what it says
      PICTURE = 2.0        # and between two pictures
      MOVES = 2.0          # and between two looks at what its disks did
      KEYS = 3             # pressed where the loader asks for one
      LONGEST = 3600       # seconds, however it comes on
      WAITS = 60           # seconds for which a picture stands still, until it is one that waits for somebody

      # outcome: :reached, :stuck (nothing moved for as long as the limit says, or it was seen before), :slow (it came on all
      # the time), :passphrase (it waits for one), :loop, :rescue, :ended, :stopped or :unavailable; seconds until then;
      # lines: the last of what it said; text: all that is kept of it; picture: path of a PNG, or nil;
      # milestones as in Course; answer: what the command of the proof gave; from: place among all disks of the one that the system
      # runs from, loader: of the one that the firmware took its loader from; message: what it means.
      Result = Struct.new(:outcome, :seconds, :lines, :text, :picture, :milestones, :answer, :from, :loader, :message,
                          keyword_init: true) do
        def started? = outcome == :reached
      end
      # What is seen while it runs; pictured: whether there is a picture, and a new one; waits: :passphrase where somebody
      # has to type one.
      Look = Struct.new(:seconds, :lines, :text, :milestones, :pictured, :waits, keyword_init: true)

      # @return [String, nil] why no trial start is possible on this machine
      def self.missing = Emulator.missing

      # @param path [String] a raw disk, or a file of another format
      # @param format [String] as the emulator names it: 'raw', 'qcow2', 'vdi' …
      # @param expect [Regexp, String] what on the serial line or the screen counts as started; without a proof, a screen that
      #   waits for somebody counts as a prompt
      # @param proof [Proof, nil] what the started system is asked then
      # @param limit [Numeric] seconds in which nothing moves
      # @param controller [Symbol] of Emulator::CONTROLLERS, as the computer has it
      # @param sector [Integer] bytes that the emulated drive counts in
      # @param beside [Hash] "before" and "after": Emulator::Drives that the firmware tries before this one, and after it
      # @param machine [Hash] firmware, secure_boot and memory, as Emulator takes them
      def initialize(path, format:, expect: PROMPT, proof: nil, limit: 120, controller: :nvme, sector: 512, beside: {}, **machine)
        disk = Emulator::Drive.new(path:, format:, controller:, sector:)
        @drives = [*beside[:before], disk, *beside[:after]]
        @machine = machine
        @expect = expect
        @proof = proof
        @limit = limit
        @keys = 0
        @course = Course.new
      end

      # @param picture [String, nil] where the PNG of the screen goes, every two seconds and at the end
      # @yieldparam look [Look] a block that returns :stop ends the trial
      # @yieldparam trial [Trial] for keys and lines that somebody types
      # @return [Result]
      # @raise [Unreadable] where a disk cannot be opened
      def run(picture: nil, &asked)
        missing = self.class.missing
        if missing
          return Result.new(outcome: :unavailable, seconds: 0, lines: [], text: '', milestones: [],
                            message: "#{missing}: install the emulator to try a start; everything else works")
        end

        Dir.mktmpdir('evrel-trial') { |folder| watch(folder, picture, &asked) }
      end

      # @param text [String] that somebody types, where the machine speaks
      def type(text) = @said.answer(text)

      # @param keys [Array<String>] that somebody presses at the same time
      def press(keys) = @emulator.press(keys)

      private

      def watch(folder, picture, &)
        @picture = picture
        @emulator = Emulator.new(folder, @drives, **@machine)
        @emulator.start
        @said = Said.new(@emulator)
        @started = now
        how = wait(&)
        seconds = elapsed
        @pictured = true if picture && how != :ended && @emulator.picture(picture)
        result(Ending.new(how, course: @course, awaited:, seconds:), seconds)
      ensure
        @emulator&.finish
      end

      def result(ending, seconds)
        Result.new(outcome: ending.outcome, seconds:, lines: last_lines, text: tail, picture: @pictured ? @picture : nil,
                   milestones: @course.to_a, answer:, from: @emulator.most_written, loader: @emulator.loaded_from,
                   message: ending.message(text, log: @emulator.log, proof: @proof))
      end

      def answer = @asked ? @proof.answer(text).strip.lines.first(20).join : nil

      def wait
        loop do
          @said.listen(elapsed)
          moved
          ending = @course.ending(@said.texts, elapsed, still: elapsed - @moved_at)
          how = reached || ending || (:ended if @emulator.ended?) || waits || too_long
          return how if how

          press_on
          pictured = take_picture
          return :stopped if block_given? && yield(seen(pictured), self) == :stop

          sleep EVERY
        end
      end

      # A running system writes to its root; what only shows a picture does not.
      # @return [Symbol, nil]
      def waits
        :waits if @proof.nil? && @expect == PROMPT && @said.waiting(elapsed) > WAITS && @emulator.most_written
      end

      # @return [Symbol, nil]
      def too_long
        return @course.passphrase?(@said.texts) ? :passphrase : :no_progress if elapsed - @moved_at > @limit

        :slow if elapsed > LONGEST
      end

      # New text, another picture, or bytes that its disks gave or took.
      def moved
        return @moved_at ||= 0.0 if @looked_at && elapsed - @looked_at < MOVES

        @looked_at = elapsed
        sign = [@said.sign, @emulator.disk_bytes]
        @moved_at = elapsed unless sign == @sign
        @sign = sign
      end

      # The loader has said what it lacks, and goes on when a key is pressed.
      def press_on
        return unless @keys < KEYS && @course.held?(@said.texts) && (@pressed_at.nil? || elapsed - @pressed_at > MOVES)

        @keys += 1
        @pressed_at = elapsed
        @emulator.press(['ret'])
      end

      # @return [Symbol, nil]
      def reached
        return unless @heard ||= @said.find(@expect)
        return :reached unless @proof

        over = @proof.go_on(@said.on(@heard)) do |line|
          @asked = true
          @said.answer(line, @heard)
        end
        { proved: :reached, refused: :refused }[over]
      end

      def take_picture
        return false if @picture.nil? || (@shot && elapsed - @shot < PICTURE)

        @shot = elapsed
        @pictured = @emulator.picture(@picture) || @pictured
      end

      def seen(pictured)
        waits = :passphrase if @course.passphrase?(@said.texts)
        Look.new(seconds: elapsed, lines: last_lines, text: tail, milestones: @course.to_a, pictured:, waits:)
      end

      def awaited
        return @proof.expect if @proof && @heard

        @expect == PROMPT ? 'log-in prompt' : @expect.to_s
      end

      def text = @said.on(@heard || @said.source)
      def tail = text.byteslice(-[text.bytesize, MOST_TEXT].min..).to_s.scrub('')
      def last_lines = text.lines(chomp: true).map(&:rstrip).reject(&:empty?).last(LINES)
      def elapsed = now - @started
      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    end
  end
end
