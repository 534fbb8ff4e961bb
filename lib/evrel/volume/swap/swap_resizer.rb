# frozen_string_literal: true

module Evrel
  module Volume
    # Swap space is made anew, with the same name and identity.
    class SwapResizer < Resizer
      def self.how(change, **) = change.zero? ? :copy : :swap

      def resize(size, **)
        old = Disk::File.open(@path) { |disk| Swap.recognise(disk) } or raise Damaged.new('it is no swap space', where: @path)
        ::File.truncate(@path, 0)
        ::File.truncate(@path, size)
        @tool.run('mkswap', '-q', '-U', old.uuid, '-p', old.block_size.to_s, *(['-L', old.label] if old.label), @path)
      end
    end
  end
end
