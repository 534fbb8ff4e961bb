# frozen_string_literal: true

module Evrel
  module Startup
    # The files of a system as it sees them once it runs: those of its root, and
    # of /usr where that is a part of its own.
    class SystemFiles
      USR = '/usr'

      # @param root [Volume]
      # @param usr [Volume, nil]
      def initialize(root, usr = nil)
        @root = root
        @usr = usr
      end

      # Where /usr is apart, /bin, /lib and /sbin are links into it.
      # @param path [String]
      # @return [(Volume, Volume::Entry), nil] where it lies; links are followed
      def find(path)
        [[@root, path], *([[@usr, path.delete_prefix(USR)]] if @usr)].each do |volume, name|
          return [volume, volume.entry(name)]
        rescue NotFound
          next
        end
        nil
      end

      def browsable? = true

      # @return [Boolean]
      def exist?(path) = !find(path).nil?

      # As of a volume.
      # @raise [NotFound]
      def file_head(path, limit) = head(path, limit) || raise(NotFound.new("#{path} is not there", where: path))

      # @param limit [Integer] bytes
      # @return [String, nil] nil where it is not there, or no file
      # @raise [Damaged]
      def head(path, limit)
        volume, entry = find(path)
        volume.file_head(entry.path, limit) if entry&.file?
      end
    end
  end
end
