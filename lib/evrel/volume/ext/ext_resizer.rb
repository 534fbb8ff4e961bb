# frozen_string_literal: true

module Evrel
  module Volume
    # ext2, ext3 and ext4 by e2fsck(8), which replays a journal that waits, and
    # resize2fs(8).
    class ExtResizer < Resizer
      # e2fsck: 0 clean, 1 corrected.
      CORRECTED = [0, 1].freeze

      # Grown above the image where that can be, else in the scratch room, as when it shrinks.
      def self.how(change, fits:, above:, **)
        return :copy if fits

        change.positive? && above ? :grow : :scratch
      end

      # @param size [Integer] bytes
      def resize(size, **)
        ::File.truncate(@path, size) if size > ::File.size(@path)
        @tool.run('e2fsck', '-f', '-p', @path, fine: CORRECTED)
        @tool.run('resize2fs', @path, "#{size / KIB}K")
        check
        ::File.truncate(@path, size) unless size == ::File.size(@path)
      end

      private

      def check
        said, code = @tool.try('e2fsck', '-f', '-n', @path)
        return if code.zero?

        words = said.lines.map(&:strip).reject(&:empty?).last(3).join(' ')[0, 300]
        raise Damaged.new("after resizing, e2fsck says: #{words}", where: @path)
      end
    end
  end
end
