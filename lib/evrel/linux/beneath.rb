# frozen_string_literal: true

module Evrel
  module Linux
    # The one way to a path on this machine whose end comes from outside: it
    # stays below its folder, whatever that end says, and through no link.
    module Beneath
      # @param folder [String] of our own
      # @param relative [String] from a volume, an archive, a list
      # @return [String] full path
      # @raise [Refused] where it would leave the folder, or goes through a link
      def self.path(folder, relative)
        names = relative.to_s.split('/').reject { |name| ['', '.'].include?(name) }
        raise refused(relative) if names.empty? || names.any? { |name| name == '..' || name.include?("\0") }

        names.each_index do |index|
          raise refused(relative) if ::File.symlink?(::File.join(folder, *names[0..index]))
        end
        ::File.join(folder, *names)
      end

      # @param bytes [String] of a file there, in the place of what it held; the folders on its way are made
      # @raise [Refused]
      def self.write(folder, relative, bytes) = opened(folder, relative) { |io| io.write(bytes) }

      def self.opened(folder, relative, &)
        to = path(folder, relative)
        FileUtils.mkdir_p(::File.dirname(to))
        ::File.open(to, ::File::WRONLY | ::File::CREAT | ::File::TRUNC | ::File::NOFOLLOW | ::File::BINARY, &)
      end

      def self.refused(relative) = Refused.new("#{relative.to_s[0, 200].inspect} leads out of its folder", where: 'path')
      private_class_method :refused, :opened
    end
  end
end
