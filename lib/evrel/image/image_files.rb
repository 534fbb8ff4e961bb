# frozen_string_literal: true

module Evrel
  module Image
    # The two files of an image that hold what was on the disk, as whoever makes
    # them needs them: in the clear, or each in a LUKS container that a
    # passphrase opens.
    class ImageFiles
      # Behind the name of a file that is such a container.
      LOCKED = '.luks'

      # @param folder [String]
      # @param passphrase [String, nil]
      def initialize(folder, passphrase = nil)
        @folder = folder
        @passphrase = passphrase
      end

      def locked? = !@passphrase.nil?

      # @return [Keys] that open the image
      def keys = @passphrase ? Keys.one(@passphrase) : Keys.none

      # @param name [String] Native::DISK or Native::DIGESTS
      # @return [String] as it lies in the folder
      def name(name) = @passphrase ? "#{name}#{LOCKED}" : name

      def path(name) = ::File.join(@folder, name(name))

      # @return [IO, Luks::Writer] of a new file
      def create(name)
        return Luks::Writer.create(path(name), @passphrase) if @passphrase

        ::File.open(path(name), ::File::RDWR | ::File::CREAT | ::File::EXCL | ::File::BINARY)
      end

      # @return [IO, Luks::Writer] of one that was begun
      def again(name) = @passphrase ? Luks::Writer.open(path(name), @passphrase) : ::File.open(path(name), 'r+b')

      # @return [Disk] its bytes
      def read(name)
        source = Disk::File.open(path(name), logical_sector: 1)
        @passphrase ? Luks.open(source, @passphrase) : source
      end

      def inspect = "#<#{self.class.name} #{@folder}>"
    end
  end
end
