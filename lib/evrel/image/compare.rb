# frozen_string_literal: true

module Evrel
  module Image
    # Two images beside each other: which files came, went and changed.
    class Compare
      # Files of one part that are compared; a volume with more is told as such.
      MOST = 1_000_000

      # A file that is not the same in both. change is :came, :went or :changed; sizes in bytes, nil where it is not.
      Change = Struct.new(:path, :change, :before, :after, :modified_at, keyword_init: true)
      # changes are ordered by path; note says why there are none to tell, or nil.
      Part = Struct.new(:number, :name, :changes, :same, :note, keyword_init: true)

      # @param older [Native, Foreign]
      # @param newer [Native, Foreign]
      def initialize(older, newer)
        @images = [older, newer]
      end

      # @return [Array<Part>] parts by number
      def parts
        numbers = @images.map { |image| image.manifest.parts.map { |part| part['number'] } }
        (numbers.first | numbers.last).map { |number| part(number, numbers) }
      end

      private

      def part(number, numbers)
        name = @images.filter_map { |image| image.manifest.partition(number) }.last.then { |part| part['name'] }
        return Part.new(number:, name:, changes: [], same: 0, note: 'Only in the older image') unless numbers.last.include?(number)
        return Part.new(number:, name:, changes: [], same: 0, note: 'Only in the newer image') unless numbers.first.include?(number)

        before, after = @images.map { |image| files(image, number) }
        same = 0
        changes = (before.keys | after.keys).sort.filter_map { |path| change(path, before[path], after[path]) || ((same += 1) && nil) }
        Part.new(number:, name:, changes:, same:)
      rescue Error => e
        Part.new(number:, name:, changes: [], same: 0, note: "Cannot be compared: #{e.message}")
      end

      # @return [Hash{String=>Array}] path → size and time
      def files(image, number)
        volume = Contents.new(image).browsable(number)
        volume.each_entry.lazy.reject(&:directory?).first(MOST).to_h { |entry| [entry.path, [entry.size, entry.modified_at]] }
      end

      def change(path, before, after)
        return if before == after

        kind = if before.nil? then :came
               elsif after.nil? then :went
               else :changed
               end
        Change.new(path:, change: kind, before: before&.first, after: after&.first, modified_at: (after || before).last)
      end
    end
  end
end
