# frozen_string_literal: true

module Evrel
  module Layout
    # Which files of a volume name a partition or a disk by its identity, and
    # where: fstab, loader entries, GRUB's configuration.
    class References
      # Files that name partitions, with * for one name.
      FILES = %w[/etc/fstab /etc/crypttab /etc/kernel/cmdline /boot/grub/grub.cfg /boot/grub2/grub.cfg /grub/grub.cfg /grub2/grub.cfg
                 /boot/loader/entries/*.conf /loader/entries/*.conf /EFI/*/grub.cfg].freeze
      LARGEST = MIB

      # offset is a byte of the volume, nil where the text cannot be replaced
      # there; old is what stands there, text what is to stand there.
      Found = Struct.new(:path, :offset, :old, :text, keyword_init: true)

      # @param disk [Disk] what the volume lies in
      def initialize(disk)
        @disk = disk
      end

      # @param identities [Array<String>]
      # @return [Array<(String, String)>] path and identity, each once
      def named(identities)
        texts.flat_map { |entry, text| identities.select { |one| text.downcase.include?(one) }.map { |one| [entry.path, one] } }
      end

      # @return [Hash{String=>String}] path → contents, of every such file
      def texts_by_path = texts.to_h { |entry, text| [entry.path, text] }

      # Where renewed identities can be replaced byte by byte.
      # @param renewed [Hash] old identity → new one of the same length
      # @return [Array<Found>]
      def places(renewed)
        texts.flat_map do |entry, text|
          renewed.select do |old, new|
            old.size == new.size && text.downcase.include?(old)
          end.flat_map { |old, new| in_file(entry, text, old, new) }
        end
      end

      private

      def texts
        @texts ||= begin
          volume, = Volume.recognise_or_unknown(@disk)
          @volume = volume
          volume.browsable? ? files.map { |entry| [entry, volume.file_head(entry.path, LARGEST).force_encoding('UTF-8').scrub('?')] } : []
        end
      rescue Damaged, Unreadable, NotFound
        @texts = []
      end

      def files
        FILES.flat_map { |pattern| expand(pattern.split('/').drop(1)) }.select { |entry| entry.file? && entry.size.between?(1, LARGEST) }
      end

      def expand(names, path = '')
        return [@volume.entry(path)] if names.empty?
        return expand(names.drop(1), "#{path}/#{names.first}") unless names.first.include?('*')

        @volume.entries(path).select { |entry| ::File.fnmatch?(names.first, entry.name, ::File::FNM_CASEFOLD) }
               .flat_map { |entry| expand(names.drop(1), "#{path}/#{entry.name}") }
      rescue NotFound, Damaged
        []
      end

      # Only where the volume keeps the file's text as often as the file has it: not where it is
      # packed, cut by a fragment's edge, or kept in a record that has a checksum.
      def in_file(entry, text, old, new)
        found = contents(entry).flat_map { |offset, length| offsets(offset, length, old) }.uniq
        return [] unless found.size == text.downcase.scan(old).size

        found.map do |offset|
          there = @disk.read(offset, old.bytesize)
          Found.new(path: entry.path, offset:, old: there, text: there == there.downcase ? new : new.upcase)
        end
      end

      # Ext and NTFS tell first where the record lies that describes the file.
      def contents(entry) = @volume.file_extents(entry).drop(@volume.is_a?(Volume::Fat) ? 0 : 1)

      def offsets(offset, length, old)
        bytes = @disk.read(offset, [length, LARGEST].min).downcase
        found = []
        at = -1
        found << (offset + at) while (at = bytes.index(old.b, at + 1))
        found
      end
    end
  end
end
