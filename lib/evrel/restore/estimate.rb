# frozen_string_literal: true

module Evrel
  module Restore
    # How long a write takes, as a range with a probability behind it, from
    # writes that were measured before and from how this one goes.
    #
    # Two things are known: how fast earlier writes were in all, and how far this
    # one has come. What they say is weighed by how far it is usually from the
    # truth, in the logarithm, since speeds are out by a factor, not by an amount.
    class Estimate
      PROBABILITY = 0.9
      # Within this many standard deviations a value lies with that probability; Student's distribution would be
      # wider for few measurements, and so is the least spread that is assumed.
      WITHIN = 1.75
      # Two writes that look alike are seldom nearer than this (natural logarithm).
      ALIKE = 0.08
      # One write says little about the next.
      ALONE = 0.25
      # How far the rest of a write is from what was seen of it, a tenth of the way in; and even at its end.
      TENTH = 0.1
      LEAST = 0.04
      # How much faster reading back is than writing where nobody measured it, and how far that is from the truth.
      READING = 1.6
      UNKNOWN = 0.2
      POINTS = 20

      # A write that was measured: work is bytes written and read back, seconds what
      # it took in all, speeds bytes per second in equal steps of time.
      Past = Struct.new(:work, :seconds, :speeds, keyword_init: true) do
        # @param most [Integer] points that the curve may keep: neighbours become one
        # @return [Past]
        def self.thinned(work:, seconds:, speeds:, most:)
          new(work:, seconds:, speeds: speeds.each_slice([speeds.size.fdiv(most).ceil, 1].max).map { |some| some.sum / some.size })
        end

        def rate = work / seconds
      end

      # low and high in seconds; measured: earlier writes behind it.
      Range = Struct.new(:low, :high, :measured, keyword_init: true)

      # @param past [Array<Past>] writes as alike as there are
      def initialize(past)
        @past = past.select { |one| one.work.to_f.positive? && one.seconds.to_f.positive? }
        @shape = shape
      end

      # @param work [Integer] bytes to write and to read back
      # @return [Range, nil] of the whole write, before it begins; nil where nothing was measured
      def whole(work)
        range(*before(work, 0.0)) if @past.any?
      end

      # @param work [Integer] bytes of the whole write, written and read back
      # @param done [Integer] bytes of them that are done
      # @param moved [Integer] bytes of them that this run did while it was at what it is at now: writing, or reading back
      # @param seconds [Float] that it took for those
      # @return [Range, nil] of what is left
      def left(work, done:, moved:, seconds:)
        return if work.zero? || moved.zero? || seconds <= 0

        share = done.fdiv(work).clamp(0.0, 1.0)
        now = going(share, moved.fdiv(work), seconds)
        range(*(@past.any? ? together([doubted(before(work, share), now), now]) : now))
      end

      private

      # From earlier writes. @return [(Float, Float)] logarithm of the seconds that are left, and its spread
      def before(work, share)
        rates = @past.map { |one| Math.log(one.rate) }
        mean = rates.sum / rates.size
        spread = rates.one? ? ALONE : Math.sqrt((rates.sum { |rate| (rate - mean)**2 } / (rates.size - 1)) + (ALIKE**2))
        [Math.log(work * left_of_time(share)) - mean, spread]
      end

      # From this run: it took so long for its share of the time, and so the rest takes.
      def going(share, moved, seconds)
        passed = time_at(share) - time_at(share - moved)
        rest = left_of_time(share)
        spread = (TENTH * ([0.1 / moved, 625.0].min**0.25) * Math.sqrt((1.0 - share) / 0.9)) + LEAST
        [Math.log(seconds * rest / [passed, 1e-9].max), Math.hypot(spread, UNKNOWN * unknown(share, moved))]
      end

      # @return [Float] share of the time left that is reading back, while only writing was measured; less of it where
      #   other writes were
      def unknown(share, moved)
        return 0.0 if share - moved > 0.49

        left_of_time([share, 0.5].max) / left_of_time(share) / (1 + @curves.size)
      end

      # Earlier writes that say something quite different say little about this one.
      def doubted(guess, now)
        value, spread = guess
        apart = (value - now.first).abs
        apart > 2 * Math.hypot(spread, now.last) ? [value, Math.hypot(spread, apart)] : guess
      end

      def together(guesses)
        weights = guesses.map { |_, spread| 1.0 / (spread**2) }
        [guesses.zip(weights).sum { |(value, _), weight| value * weight } / weights.sum, Math.sqrt(1.0 / weights.sum)]
      end

      def range(value, spread)
        Range.new(low: Math.exp(value - (WITHIN * spread)), high: Math.exp(value + (WITHIN * spread)), measured: @past.size)
      end

      def left_of_time(share) = [1.0 - time_at(share), 1e-6].max

      # Which share of its time a write has taken when it has done a share of its work.
      def time_at(share)
        place = share.clamp(0.0, 1.0) * POINTS
        below = [place.floor, POINTS - 1].min
        @shape[below] + ((@shape[below + 1] - @shape[below]) * (place - below))
      end

      # As earlier writes went on average: a drive whose cache fills, a read-back that is faster.
      # @return [Array<Float>] shares of time at equal steps of work
      def shape
        @curves = @past.filter_map { |one| curve(one.speeds) if one.speeds.to_a.size >= POINTS && one.speeds.all?(&:positive?) }
        return default if @curves.empty?

        # One more that is the usual one: few curves are no rule yet.
        [default, *@curves].transpose.map { |shares| shares.sum / shares.size }
      end

      # Writing at one speed, and reading back at a higher one.
      def default
        slow, fast = [1.0, 1.0 / READING].map { |time| time / (1.0 + (1.0 / READING)) / (POINTS / 2) }
        Array.new(POINTS + 1) { |step| (slow * [step, POINTS / 2].min) + (fast * [step - (POINTS / 2), 0].max) }
      end

      def curve(speeds)
        total = speeds.sum.to_f
        done = 0.0
        times = [0.0]
        speeds.each_with_index do |speed, index|
          done += speed
          times << (index + 1).fdiv(speeds.size) while times.size <= POINTS && done / total >= times.size.fdiv(POINTS) - 1e-9
        end
        times << 1.0 while times.size <= POINTS
        times
      end
    end
  end
end
