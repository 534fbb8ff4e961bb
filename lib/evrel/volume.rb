# frozen_string_literal: true

module Evrel
  # File systems inside of a partition. Every kind answers:
  #
  #   kind, label, uuid        text; label and uuid may be nil
  #   size                     bytes that the file system claims
  #   block_size               bytes of its unit of allocation
  #   used_bytes               bytes of all used blocks, its own structures included
  #   used_extents             yields byte offset and length of each run of used blocks, ascending;
  #                            everything outside may be forgotten: where its map is not proved, that is nothing
  #   map                      what it calls its map of used blocks, for people; nil where it has none that is read
  #   doubts                   texts: why not all of that map is believed; empty where it is proved, or there is none
  #   kept_whole?              whether used_extents leaves nothing out
  #   clean?                   false where it was not unmounted in order, nil where that is not known
  #   hibernated?              whether a system sleeps on it, whose memory counts for more than what lies there
  #
  # and, where `browsable?`:
  #
  #   entries(path)            the Entry of each name in a directory
  #   entry(path)              the Entry of one path
  #   page(path, from, count)  the same, a piece of a large directory at a time
  #   read_file(path)          yields the contents in pieces
  #   file_extents(entry)      where on the volume a file lies
  #
  # What it tells to those who place, resize, mend and judge it stands in Told: limits, resizer, judge, place_fields,
  # editor, least_sector and so on. A new kind is a folder below volume/ and a name in KINDS; spec/contracts/volume.rb is
  # the contract that every kind passes.
  #
  # Paths are absolute and separated by "/". Whatever contradicts itself on the
  # disk raises Damaged.
  module Volume
    # Kinds in which systems lie, and whose files are neither read nor changed here.
    UNREAD = %w[btrfs xfs f2fs bcachefs jfs reiserfs apfs lvm luks1 luks2 bitlocker linux-raid zfs dynamic-disk].freeze

    # One name in a directory. type is :file, :directory, :symlink or :other;
    # size in bytes; modified_at a Time, or nil where none is stored; note says
    # why its contents cannot be read here, nil where they can.
    Entry = Struct.new(:name, :path, :type, :size, :modified_at, :ref, :note, keyword_init: true) do
      def directory? = type == :directory
      def file? = type == :file
      def symlink? = type == :symlink
    end

    # In the order in which they are looked for; what is found first gives its name to two that contradict each other.
    KINDS = %i[Ext Ntfs Fat Signatures Optical Swap].freeze

    # @param kind [String]
    # @return [Boolean] whether a plan may make such a volume smaller
    def self.shrinkable?(kind)
      KINDS.map { |name| const_get(name) }.any? { |one| one.const_defined?(:SHRINKABLE) && one::SHRINKABLE.include?(kind) }
    end

    # @param name [String] of a kind's resizer
    # @return [Module]
    # @raise [Unsupported] where no kind has it
    def self.resizer(name)
      known = KINDS.map { |kind| "#{kind}Resizer" }.find { |one| one == name && const_defined?(one) }
      known ? const_get(known) : raise(Unsupported.new("no volume is resized by #{name}", where: 'resizer'))
    end

    # @param disk [Disk] a whole volume, usually a Disk::Window
    # @return [Object] one of the kinds above; Unknown where none fits
    # @raise [Damaged] where the signature is there but the rest contradicts it, or two kinds claim the same place
    def self.recognise(disk)
      Containers.recognise(disk) || one_of(KINDS.filter_map { |name| claim(name, disk) }) || Unknown.new(disk)
    end

    # @return [Object, Damaged, nil] a volume of this kind, or what is wrong with it
    def self.claim(name, disk)
      const_get(name).recognise(disk)
    rescue Damaged => e
      e
    end

    # Discs often carry another file system beside their own, for other readers.
    def self.one_of(claims)
      claims = claims.reject { |one| one.is_a?(Opaque) && Optical::KINDS.include?(one.kind) } if claims.size > 1
      return claims.first if claims.size < 2 && !claims.first.is_a?(Damaged)
      raise claims.first if claims.size == 1

      names = claims.map { |one| one.is_a?(Damaged) ? one.message : one.kind }
      raise Damaged.new("it looks like #{Units.list(names)} at once", where: 'signatures')
    end
    private_class_method :claim, :one_of

    # @param bytes [String] a name as a volume stores it
    # @return [String] UTF-8, whatever stands there
    def self.text(bytes) = bytes.dup.force_encoding('UTF-8').scrub

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
