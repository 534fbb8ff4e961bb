# frozen_string_literal: true

module Evrel
  module Resize
    # ext2, ext3 and ext4 by e2fsck(8) and resize2fs(8), which take
    # "FILE?offset=BYTES" for a volume inside a disk.
    class Ext
      # e2fsck: 0 clean, 1 corrected.
      CORRECTED = [0, 1].freeze

      # @param path [String]
      # @param tool [Tool]
      # @param offset [Integer] bytes
      def initialize(path, tool, offset: 0)
        @path = path
        @tool = tool
        @offset = offset
      end

      # In a file of its own.
      def resize(size, **)
        ::File.truncate(@path, size) if size > ::File.size(@path)
        to(size)
        ::File.truncate(@path, size)
      end

      # Where it lies.
      # @param size [Integer] bytes of the volume
      def to(size)
        @tool.run('e2fsck', '-f', '-p', device, fine: CORRECTED)
        @tool.run_within(@path, 'resize2fs', device, "#{size / KIB}K")
        wrong = problem
        raise Damaged.new("after resizing, e2fsck says: #{wrong}", where: @path) if wrong
      end

      # @return [String, nil] what e2fsck says is wrong
      def problem
        said, code = @tool.try('e2fsck', '-f', '-n', device)
        said.lines.map(&:strip).reject(&:empty?).last(3).join(' ')[0, 300] unless code.zero?
      end

      private

      def device = @offset.zero? ? @path : "#{@path}?offset=#{@offset}"
    end
  end
end
