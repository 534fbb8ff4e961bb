# frozen_string_literal: true

module Evrel
  module Image
    # Keeps the digests of a foreign image as they are taken. The list appears
    # under its name when it is complete; one that was begun is gone on with.
    class DigestTaker
      # @param path [String] where the list goes
      # @param image [Foreign]
      def initialize(path, image)
        @path = path
        @part = "#{path}.part"
        # Of an image that has digests already nothing has to be taken.
        return if image.digests.is_a?(Digests)

        @writer = ::File.exist?(@part) ? Digests::Writer.again(@part) : Digests::Writer.new(@part)
      end

      # @param digest [String, nil]
      def add(index, digest) = (@writer&.add(index, digest) if digest)

      # The list counts from now on.
      def finish
        return unless @writer

        close
        ::File.rename(@part, @path)
      end

      def close
        @writer&.close
        @writer = nil
      end
    end
  end
end
