# frozen_string_literal: true

module Evrel
  # File systems inside of a partition. Every kind answers:
  #
  #   kind, label, uuid        text; label and uuid may be nil
  #   size                     bytes that the file system claims
  #   block_size               bytes of its unit of allocation
  #   used_bytes               bytes of all used blocks, its own structures included
  #   used_extents             yields byte offset and length of each run of used blocks, ascending;
  #                            everything outside may be forgotten
  #   clean?                   false where it was not unmounted in order, nil where that is not known
  #
  # and, where `browsable?`:
  #
  #   entries(path)            the Entry of each name in a directory
  #   entry(path)              the Entry of one path
  #   page(path, from, count)  the same, a piece of a large directory at a time
  #   read_file(path)          yields the contents in pieces
  #   file_extents(entry)      where on the volume a file lies
  #
  # Paths are absolute and separated by "/". Whatever contradicts itself on the
  # disk raises Damaged.
  module Volume
    # One name in a directory. type is :file, :directory, :symlink or :other;
    # size in bytes; modified_at a Time, or nil where none is stored.
    Entry = Struct.new(:name, :path, :type, :size, :modified_at, :ref, keyword_init: true) do
      def directory? = type == :directory
      def file? = type == :file
      def symlink? = type == :symlink
    end

    KINDS = %i[Ext Ntfs Fat Signatures Swap].freeze

    # @param disk [Disk] a whole volume, usually a Disk::Window
    # @return [Object] one of the kinds above; Unknown where none fits
    # @raise [Damaged] where the signature is there but the rest contradicts it
    def self.recognise(disk)
      KINDS.each do |name|
        found = const_get(name).recognise(disk)
        return found if found
      end
      Unknown.new(disk)
    end

    # Recognises, and takes a damaged file system for an unknown one, whose
    # every byte then counts: nothing is lost by a wrong guess.
    # @return [Array<(Object, Damaged)>] the volume, and the error or nil
    def self.recognise_or_unknown(disk)
      [recognise(disk), nil]
    rescue Damaged => e
      [Unknown.new(disk), e]
    end
  end
end
