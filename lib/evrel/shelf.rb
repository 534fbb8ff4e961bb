# frozen_string_literal: true

module Evrel
  # Places that hold images. Every kind answers:
  #
  #   each_file            yields an Entry for each file, in any depth; what cannot be read has a problem
  #   entry(path)          the Entry of one file, nil where there is none
  #   open(path)           its bytes, as a read-only Disk of sectors of one byte
  #   read(path, limit)    the contents of a small file
  #   local(path)          its path on this machine, nil where it has none
  #   folder?(path)        whether a folder of this name is there
  #   siblings(path)       Entries of the files in the same folder
  #
  # Paths are relative to the shelf, separated by "/". No path and no link
  # leads out of it.
  module Shelf
    # One file: size in bytes; modified_at a Time or nil; stamp changes when the
    # file does; problem says why it could not be looked at.
    Entry = Struct.new(:path, :size, :modified_at, :stamp, :problem, keyword_init: true) do
      def name = ::File.basename(path)
      def folder = ::File.dirname(path)
    end

    # Folders deeper than this are no shelf but a loop.
    DEEPEST = 24

    # @param path [String]
    # @return [String] without "." and ".."
    # @raise [Refused] where it leads out of the shelf
    def self.inside(path)
      names = path.to_s.split('/').reject { |name| ['', '.'].include?(name) }
      kept = names.each_with_object([]) do |name, found|
        next found << name unless name == '..'

        found.pop or raise Refused.new("#{path} leads out of the shelf", where: path)
      end
      kept.join('/')
    end
  end
end
