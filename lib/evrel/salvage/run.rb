# frozen_string_literal: true

module Evrel
  module Salvage
    # One run over a failing disk: it ends when nothing more can be had, or at a
    # limit, and goes on from its map another time.
    class Run
      STEP = MIB
      SMALL = 65_536
      # After a step that failed so many steps are left behind, then twice as many, and so on.
      LEAP = 1
      LONGEST_LEAP = 64
      NOTED = 5 # seconds between two notes of the map

      # complete: whether nothing is left that could be asked for; because: :time, :heat or :enough where something ended it;
      # bad: byte offset and length of what could not be read; used: the ranges that were wanted.
      Result = Struct.new(:complete, :because, :bad, :used, keyword_init: true)

      # Ends a run at a limit.
      class Limit < StandardError
        attr_reader :name

        def initialize(name)
          super(name.to_s)
          @name = name
        end
      end

      # @param disk [Disk]
      # @param store [Store]
      # @param parts [Array<Integer>, nil] numbers of those that are wanted
      # @param retries [Integer] how often a sector that failed is asked for again
      # @param unused [Boolean] whether what is not used is read too, at the end
      # @param slow [Float] seconds: a step that takes longer counts as one that failed, but for what it gave
      # @param only [Array<(Integer, Integer)>, nil] byte offset and length of all that is wanted, ascending: nothing is looked up
      # @param seconds [Numeric, nil] after which it ends
      # @param hot [#call, nil] whether the disk is too hot now; asked every so often
      def initialize(disk, store, parts: nil, retries: 1, unused: false, slow: 5.0, only: nil, seconds: nil, hot: nil)
        @source = Source.new(disk, store)
        @store = store
        @map = store.map
        @parts = parts
        @retries = retries
        @unused = unused
        @slow = slow
        @only = only
        @until = seconds && (now + seconds)
        @hot = hot
        @noted = now
      end

      # @yieldparam progress [Progress]
      # @yieldreturn [Symbol] :enough where what was read is to do
      # @return [Result]
      # @raise [Away, Stopped] the map is noted before
      def run(&block)
        @told = block
        passes
        result(complete: true)
      rescue Limit => e
        result(complete: false, because: e.name)
      ensure
        @store.note
      end

      private

      def passes
        @only ? want(@only) : at(:structures) { survey }
        at(:used) { stride(@used) }
        at(:edges) { each_gap { |offset, length| edges(offset, length) } }
        at(:middles) { each_gap { |offset, length| middle(offset, length) } }
        at(:sectors) { each_gap { |offset, length| sectors(offset, length) } }
        @retries.times { |time| at(:again) { again(backwards: time.even?) } }
        at(:unused) { everything } if @unused
      end

      def at(pass)
        @pass = pass
        yield
      end

      # What cannot be read of a file system's own map is no reason to leave out what it would say: then all of it is wanted.
      def survey
        map = Image::UsedMap.new(@source)
        map.only(@parts) if @parts
        sector = @map.sector
        runs = map.each_run.map do |offset, length|
          first = offset / sector * sector
          [first, [(offset + length + sector - 1) / sector * sector, @map.size].min - first]
        end
        want(Volume::Runs.enum_for(:union, runs).to_a)
        tell(0)
      end

      def want(ranges)
        @used = ranges
        @wanted = ranges.sum(&:last)
      end

      # What is not used is read like the rest, with whatever fails there.
      def everything
        all = [[0, @map.size]]
        want(all)
        stride(all)
        %i[edges middle sectors].each { |how| each_gap { |offset, length| send(how, offset, length) } }
      end

      # As they lie when it begins.
      def each_gap(&) = @map.in_state(@used, :skipped).each(&)

      # Forward in large steps, in leaps over what is bad.
      def stride(ranges)
        leap = LEAP
        over = 0
        @map.in_state(ranges, :left).each do |range|
          steps(*range, STEP) do |offset, length|
            next @source.skip(offset, length) if offset < over

            if ask(offset, length)
              leap = LEAP
            else
              over = offset + length + (leap * STEP)
              leap = [leap * 2, LONGEST_LEAP].min
            end
          end
        end
      end

      # From both ends up to the first that fails.
      def edges(offset, length)
        steps(offset, length, SMALL) { |from, size| break unless ask(from, size) }
        below = offset + length
        while below > offset
          size = [SMALL, below - offset].min
          break if @map.read?(below - size, size) || !ask(below - size, size)

          below -= size
        end
      end

      def middle(offset, length) = steps(offset, length, SMALL) { |from, size| ask(from, size) }

      def sectors(offset, length)
        steps(offset, length, @map.sector) { |from, size| ask(from, size) || @map.set(from, size, :bad) }
      end

      def again(backwards:)
        bad = @map.in_state(@used, :bad)
        bad = bad.reverse if backwards
        bad.each do |offset, length|
          places = offset.step(offset + length - 1, @map.sector).to_a
          places.reverse! if backwards
          places.each { |from| ask(from, @map.sector) }
        end
      end

      def steps(offset, length, step)
        offset.step(offset + length - 1, step) { |from| yield from, [step, offset + length - from].min }
      end

      # @return [Boolean] whether it was read, and in good time
      def ask(offset, length)
        before = now
        given = read(offset, length)
        tell(offset)
        given && now - before < @slow
      end

      def read(offset, length)
        @source.ask(offset, length)
        true
      rescue Unreadable => e
        raise if e.is_a?(Away)

        false
      end

      def tell(offset)
        note if now - @noted > NOTED
        raise Limit, :enough if @told&.call(progress(offset)) == :enough
        raise Limit, :time if @until && now > @until
      end

      # The heat of a disk changes slowly.
      def note
        @store.note
        @noted = now
        raise Limit, :heat if @hot&.call
      end

      def progress(offset)
        read, skipped, bad = %i[read skipped bad].map { |state| @map.total(state) }
        Progress.new(pass: @pass, wanted: @wanted, read: [read, @wanted].min, skipped:, bad:, left: [@wanted - read - skipped - bad, 0].max,
                     errors: @source.errors, at: offset)
      end

      def result(**how) = Result.new(bad: @map.in_state(@used || [[0, @map.size]], :bad, :skipped), used: @used.to_a, **how)
      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    end
  end
end
