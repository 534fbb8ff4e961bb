# frozen_string_literal: true

require 'tempfile'

module Evrel
  module Volume
    # Puts files into a volume that lies in a plain file, by the tools of its
    # own system.
    class Editor
      # @param path [String] of the file
      # @param volume [Object] what lies there
      def initialize(path, volume)
        @path = path
        @volume = volume
      end

      # @param name [String] absolute path in the volume; folders on the way are made
      # @param bytes [String] contents, in the place of what was there
      # @param about [Hash] rights, owner and extended attributes, as `about` gives them; where it is empty, those that were
      #   there stay
      # @raise [Damaged] with what the tool says
      def put(name, bytes, about: {})
        Tempfile.create('evrel-put', binmode: true) do |file|
          file.write(bytes)
          file.flush
          put_file(name, file.path, about)
        end
      end

      # @param name [String] absolute path of a symbolic link, where nothing is yet
      # @param target [String] as it stands in the link
      # @raise [Unsupported] where the volume has no such links
      def link(name, _target) = raise(Unsupported.new("no symbolic link is made here: #{name}", where: @path))

      # @param name [String] absolute path of a file
      # @return [Hash] empty for volumes that keep no such thing, or none that another keeps
      def about(_name) = {}

      # Gives the volume another identity.
      # @param text [String] in the form of the one that it has
      # @raise [Damaged] with what the tool says
      def identity=(text)
        offset, length = @volume.serial_field
        bytes = [text.delete('-')].pack('H*').reverse
        @volume.boot_copies.each { |at| ::File.binwrite(@path, bytes.byteslice(0, length), at + offset) }
      end

      private

      # @return [Array<String>] folders above a path, the highest first
      def folders(name)
        names = ::File.dirname(name).split('/').reject(&:empty?)
        names.each_index.map { |index| "/#{names[0..index].join('/')}" }
      end

      # @param given [Array<String>] paths of what it reads, or writes for us
      def tool(*command, input: nil, quiet: false, given: [], fine: [0])
        said = Evrel::Tool.run(*command, input:, write: [@path, *given])
        return said.text if fine.include?(said.code) || quiet

        raise Damaged.new("#{command.first} refuses: #{said.text.scrub.strip.lines.last.to_s.strip}", where: command.last)
      end
    end
  end
end
