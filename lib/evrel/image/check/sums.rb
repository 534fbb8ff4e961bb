# frozen_string_literal: true

require 'openssl'

module Evrel
  module Image
    # Checksums that lie beside an image, as sha256sum(1) writes them:
    # SHA256SUMS in its folder, or a file of its name with ".sha256" behind.
    class Sums
      NAMES = [Native::SUMS, 'sha256sums.txt'].freeze
      LARGEST = MIB
      LINE = /\A(?<sum>\h{64}) [ *](?<name>.+)\z/
      PIECE = MIB

      # OpenSSL's is much faster than Ruby's own. What is checked afterwards is read from the medium, not from memory.
      # @param folder [String] on this machine
      # @param names [Array<String>] of files in it, as far as they are there
      # @return [String] what SHA256SUMS says of them
      # @raise [Unreadable]
      def self.written(folder, names)
        piece = ''.b
        names.select { |name| ::File.exist?(::File.join(folder, name)) }.map do |name|
          sha = OpenSSL::Digest.new('SHA256')
          ::File.open(::File.join(folder, name), 'rb') do |io|
            sha << piece while io.read(PIECE, piece)
            io.advise(:dontneed)
          end
          "#{sha.hexdigest}  #{name}\n"
        end.join
      rescue SystemCallError => e
        raise Unreadable.new("the image cannot be read for its checksums: #{e.message}", where: folder)
      end

      # @param shelf [Shelf::Folder, Shelf::Web]
      # @param members [Array<String>] paths on it
      # @return [Array<String>] paths of the lists of checksums that lie beside them
      def self.lists(shelf, members)
        folders = members.map { |path| ::File.dirname(path) }.uniq
        places = folders.flat_map { |folder| NAMES.map { |name| folder == '.' ? name : "#{folder}/#{name}" } }
        (places + members.map { |path| "#{path}.sha256" }).uniq.select { |path| shelf.entry(path) }
      end

      # @param shelf [Shelf::Folder, Shelf::Web]
      # @param members [Array<String>] paths on it
      # @return [Array<(String, String)>] path of a member, and what a list beside it says that its SHA-256 is
      def self.beside(shelf, members)
        by_name = members.to_h { |path| [::File.basename(path), path] }
        lines = lists(shelf, members).flat_map { |path| shelf.read(path, LARGEST).force_encoding('UTF-8').scrub.lines(chomp: true) }
        lines.filter_map do |line|
          match = LINE.match(line) or next
          path = by_name[::File.basename(match[:name])]
          [path, match[:sum].downcase] if path
        end
      end

      # @param image [Native, Foreign]
      def initialize(image)
        @image = image
        @shelf = image.shelf
      end

      # @return [Array<String>] a message for each file that does not match
      def problems
        return ["#{Native::SUMS} is missing"] if @image.is_a?(Native) && Sums.lists(@shelf, @image.members).empty?

        Sums.beside(@shelf, @image.members).filter_map { |path, sum| problem(path, sum) }
      end

      private

      # The clusters of our own disk.qcow2 have digests of their own, which were just checked one by one.
      def problem(path, sum)
        return if @image.is_a?(Native) && path == @image.disk_path

        "#{::File.basename(path)} does not match its checksum" unless sum_of(path) == sum
      end

      def sum_of(path)
        sha = OpenSSL::Digest.new('SHA256') # much faster than Ruby's own
        file = @shelf.open(path)
        at = 0
        while at < file.size
          length = [PIECE, file.size - at].min
          sha << file.read(at, length)
          at += length
        end
        sha.hexdigest
      ensure
        file&.close
      end
    end
  end
end
