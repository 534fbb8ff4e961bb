# frozen_string_literal: true

module Evrel
  module Image
    # Counts what is done, and what that takes.
    class Course
      # How far a taking is. done and total: bytes of used clusters; earlier: bytes of done that an earlier run did; stored:
      # bytes of the image so far; unread: sectors that could not be read; parts: number → [done, total] (nil: what lies
      # outside of them); limit: :drive, :packing or :shelf, what most of the time goes into; checked: bytes of used clusters that
      # were read back from the image, nil before that.
      Progress = Struct.new(:done, :total, :earlier, :stored, :unread, :parts, :limit, :checked, keyword_init: true)

      # @param map [UsedMap]
      # @param each [#call] yields the number of each cluster that is taken
      def initialize(map, each = map.method(:each_cluster))
        @areas = map.table ? map.parts.map { |part| [part.start, part.end, part.number] }.sort : []
        @parts = Hash.new { |all, number| all[number] = [0, 0] }
        each.call { |index, _| @parts[part(index)][1] += 1 }
        @at = 0
        @done = @earlier = 0
        @spent = { drive: 0.0, packing: 0.0, shelf: 0.0 }
      end

      def total = @total ||= @parts.sum { |_, (_, all)| all }

      # A cluster that an earlier run has taken.
      def earlier(index)
        @earlier += 1
        add(index)
      end

      def add(index)
        @done += 1
        @parts[part(index)][0] += 1
      end

      # @param drive [Float] seconds of reading, in all processes
      # @param packing [Float] seconds of packing, in all processes
      # @param shelf [Float] seconds of writing
      def spent(drive:, packing:, shelf:)
        @spent = { drive: @spent[:drive] + drive, packing: @spent[:packing] + packing, shelf: @spent[:shelf] + shelf }
      end

      # @param stored [Integer] bytes
      # @param unread [Integer] sectors
      # @param checked [Integer, nil] clusters
      # @return [Progress]
      def progress(stored, unread, checked: nil)
        Progress.new(done: @done * CLUSTER, total: total * CLUSTER, earlier: @earlier * CLUSTER, stored:, unread:,
                     parts: @parts.transform_values { |both| both.map { |count| count * CLUSTER } }, limit: @spent.max_by(&:last).first,
                     checked: checked&.*(CLUSTER))
      end

      private

      # @return [Integer, nil] number of the part in which a cluster begins
      def part(index)
        @areas.bsearch { |_, below, _| below > index * CLUSTER }&.then { |from, _, number| number if from < (index + 1) * CLUSTER }
      end
    end
  end
end
