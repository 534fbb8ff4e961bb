# frozen_string_literal: true

module Evrel
  module Volume
    # NTFS by ntfsresize(8), which moves what stands behind the new end, and
    # ntfsfix(8), which takes back the mark that asks for a check.
    class NtfsResizer < Resizer
      def self.how(_change, fits:, **) = fits ? :copy : :scratch

      # @param size [Integer] bytes of the partition; the volume's last sector is its spare boot sector
      def resize(size, **)
        ::File.truncate(@path, size) if size > ::File.size(@path)
        @tool.run('ntfsresize', '-ff', '-s', size.to_s, @path)
        ::File.truncate(@path, size) unless size == ::File.size(@path)
        @tool.run('ntfsfix', '-d', @path)
        @tool.run('ntfsresize', '-i', '-f', @path)
      end
    end
  end
end
