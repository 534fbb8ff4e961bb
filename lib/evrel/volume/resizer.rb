# frozen_string_literal: true

module Evrel
  module Volume
    # Brings a volume to another size with the tools of its own system. Each kind
    # works on a plain file of the volume's bytes. The same bytes, size and time
    # give the same bytes.
    class Resizer
      # @param path [String] of a file that holds the volume; its size becomes the new one
      # @param size [Integer] bytes
      # @param sector [Integer] bytes of the drive that it will lie on
      # @param time [Time] that the tools take for now
      # @raise [Damaged] where a tool refuses the volume
      def self.resize(path, size, sector:, time:) = new(path, Tool.new(time, [path])).resize(size, sector:)

      # @param change [Integer] bytes that it becomes larger
      # @param fits [Boolean] whether what it reaches lies within its new size
      # @param least_sector [Integer] bytes of the units that it counts in
      # @param sector [Integer] bytes of the target's
      # @param above [Boolean] whether it can be grown above the image
      # @return [Symbol] how the bytes of a volume of this kind come to the target; see Layout::Place
      def self.how(change, fits:, least_sector:, sector:, above:) = raise(NotImplementedError)

      # @return [Boolean] whether it is made anew, for sectors of any size
      def self.any_sector? = false

      # @param path [String]
      # @param tool [Tool]
      def initialize(path, tool)
        @path = path
        @tool = tool
      end
    end
  end
end
