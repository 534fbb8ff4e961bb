# frozen_string_literal: true

module Evrel
  module Volume
    # What every kind tells of itself to those who place, resize, mend and judge
    # it; here as a kind tells it that nothing is known of. `@disk` is the
    # partition that it lies in.
    module Told
      # @param doubts [Array<String>] why its map of used blocks is not believed
      # @return [Limits]
      # @raise [Unreadable]
      def limits(doubts = [])
        return Limits.fixed(size, "it keeps its size: #{doubts_say(doubts)}") if doubts.any? && !only_waits?

        resizer ? least_size : Limits.fixed(size || @disk.size, "#{word} keeps its size: no tool here resizes it")
      rescue Damaged => e
        Limits.fixed(@disk.size, "it keeps its size: #{e.message}")
      end

      # @return [Limits] of one that has a resizer
      def least_size = raise(NotImplementedError)

      # @return [Class, nil] the Resizer of this kind
      def resizer = nil

      # @return [Array<(String, Array<String>)>, nil] what the check of its own system is called, and how it is run on a file
      def judge = nil

      # What in it says where it lies, as it would be elsewhere.
      # @param start [Integer] byte of the disk at which it is to begin
      # @param fits [#call] of a count of sectors that stands there: whether it is one that has to be changed
      # @return [Array<(Integer, String, String)>] byte within it, bytes, and what they are
      # @raise [Damaged]
      def place_fields(_start, fits: ->(_) { true }) = [] # rubocop:disable Lint/UnusedMethodArgument

      # @return [Array<Integer>] bytes at which its boot sector and copies of that lie; empty where it has none that say so
      def boot_copies = []

      # @return [Array<(Range, Integer)>] bytes of the first sector that describe the volume, and sectors of code from there
      def boot_record = [nil, 1]

      # @param path [String] of a file that holds this volume
      # @return [Editor]
      # @raise [Unsupported]
      def editor(path) = raise(Unsupported.new("nothing here writes into #{kind}", where: path))

      # @return [String, nil] an identity like its own that no other has; nil where it cannot be given another
      def fresh_identity = nil

      # @return [Integer] bytes of the smallest unit that it counts in: it cannot lie on a drive whose sectors are larger
      def least_sector = @disk.logical_sector

      # @return [Time, nil] when something was last written to it, as it says
      def written_at = nil

      # @return [Time, nil] when it was last mounted, as it says
      def mounted_at = nil

      # @return [Boolean] whether nothing is wrong with it but that its journal waits, which is replayed before it is resized
      def only_waits? = false

      # In errors it shows its kind, not all that was read of it.
      def inspect = "#<#{self.class.name}>"

      # @return [String] what it is called in a sentence
      def word = kind == 'unknown' ? 'a volume of an unknown kind' : kind

      private

      # @return [String] the first doubt, or what can be done about it
      def doubts_say(doubts) = doubts.first
    end
  end
end
