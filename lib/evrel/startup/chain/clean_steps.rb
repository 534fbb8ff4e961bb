# frozen_string_literal: true

module Evrel
  module Startup
    # Whether the file systems of a disk were left in order, and whether a
    # system sleeps on one of them.
    class CleanSteps
      # @param walk [Walk]
      def initialize(walk)
        @walk = walk
        @places = walk.places
      end

      def take
        asleep
        states = @walk.table.partitions.to_h { |part| [part, state(@places.volume(part))] }
        unclean = states.select { |_, state| state == false }.keys
        return clean_as_far_as_known(states) if unclean.empty?

        @walk.ask('clean', 'A file system was not unmounted in order', "#{unclean.map do |part|
          @places.word(part)
        end.join(', ')}: it is checked at the start, which takes longer",
                  'its superblock', part: unclean.first.number)
      end

      private

      # Of what is not read here nothing is known.
      def clean_as_far_as_known(states)
        unknown = states.select { |part, state| state.nil? && @places.volume(part).kind != 'unknown' }.keys
        return @walk.ok('clean', 'All file systems are clean', 'Each was unmounted in order', 'their superblocks') if unknown.empty?

        @walk.ok('clean', 'Clean, as far as is known', "Not known of #{unknown.map do |part|
          "#{@places.word(part)} (#{@places.volume(part).kind})"
        end.join(', ')}", 'their superblocks')
      end

      def state(volume)
        volume.clean?
      rescue BadPlace
        nil
      end

      def asleep
        part = @walk.table.partitions.find { |one| sleeps?(@places.volume(one)) } or return
        @walk.ask('asleep', 'A system sleeps on it',
                  "#{@places.word(part)}: it wakes into what it had in memory, if that still fits the hardware",
                  "partition #{part.number}", part: part.number)
      end

      def sleeps?(volume)
        volume.hibernated?
      rescue BadPlace
        false
      end
    end
  end
end
