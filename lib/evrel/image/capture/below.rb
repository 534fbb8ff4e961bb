# frozen_string_literal: true

require 'pathname'

module Evrel
  module Image
    # The image on top of which a new one of the same drive is taken.
    class Below
      # So many may lie below one: each is a file that must be there, and be read.
      DEEPEST = 7

      # @param folder [String] of it
      # @param above [String] folder of the new one
      # @param disk [Disk] of which that is taken
      # @return [Below]
      # @raise [Refused] where nothing can be taken on top of it
      def self.open(folder, above, disk)
        image = Image.open(folder)
        below = new(image, Pathname(folder).relative_path_from(Pathname(above)).to_s)
        below.refuse!(disk)
        below
      rescue StandardError
        image&.close
        raise
      end

      attr_reader :path

      # @param image [Native]
      # @param path [String] relative to the folder of the new one
      def initialize(image, path)
        @image = image
        @path = path
      end

      def id = @image.manifest.id
      def digests = @image.digests
      def depth = (@image.manifest.onto&.fetch('depth', nil) || 0) + 1

      # @return [String] what the new qcow2 file names
      def disk = "#{path}/#{Native::DISK}"

      # @return [Hash] for the manifest
      def to_h = { 'id' => id, 'path' => path, 'depth' => depth }

      def refuse!(disk)
        raise Refused.new('only an image of our own has digests to go by', where: path) unless @image.is_a?(Native)
        raise Refused.new('that image is of a disk of another size', where: path) unless @image.disk.size == disk.size
        raise Refused.new('not all of that image could be read when it was taken', where: path) if @image.manifest.unread.any?
        return if depth <= DEEPEST

        raise Refused.new("#{depth} images lie below one another there",
                          where: path, hint: 'make one of them whole first, or take a whole one')
      end

      # Yields what is used; and the clusters of the image below that are not used any more, without ranges: zeros.
      # @param used [Enumerator] of clusters as UsedMap#each_cluster
      def beside(used)
        gone = digests.each_batch.lazy.flat_map { |batch| batch.map(&:first) }.each_entry
        used.each do |index, ranges|
          yield gone.next, [] while before?(gone, index)
          gone.next if same?(gone, index)
          yield index, ranges
        end
        loop { yield gone.next, [] }
      end

      def close = @image.close

      private

      def before?(gone, index)
        gone.peek < index
      rescue StopIteration
        false
      end

      def same?(gone, index)
        gone.peek == index
      rescue StopIteration
        false
      end
    end
  end
end
