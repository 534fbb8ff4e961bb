# frozen_string_literal: true

module Evrel
  module Layout
    # Which files of a volume name a partition or a disk by its identity, and
    # where: fstab, loader entries, GRUB's configuration, and the stores of
    # start-up programs, which name partitions by their place too.
    class References
      # Files that name partitions, with * for one name.
      FILES = %w[/etc/fstab /etc/crypttab /etc/kernel/cmdline /boot/grub/grub.cfg /boot/grub2/grub.cfg /grub/grub.cfg /grub2/grub.cfg
                 /boot/loader/entries/*.conf /loader/entries/*.conf /EFI/*/grub.cfg].freeze
      STORES = %w[/EFI/*/Boot/BCD /EFI/BOOT/BCD /Boot/BCD].freeze
      LARGEST = MIB

      # offset is a byte of the volume, nil where the text cannot be replaced
      # there; old is what stands there, text what is to stand there.
      Found = Struct.new(:path, :offset, :old, :text, keyword_init: true)

      # @param disk [Disk] what the volume lies in
      def initialize(disk)
        @disk = disk
      end

      # @param identities [Array<String>]
      # @param table [Table::Gpt, Table::Mbr, nil] of the disk: what stores name of it counts too
      # @return [Array<(String, String)>] path and identity, each once
      def named(identities, table = nil)
        found = texts.flat_map { |entry, text| identities.select { |one| text.downcase.include?(one) }.map { |one| [entry.path, one] } }
        found + stores.flat_map do |entry, devices|
          devices.filter_map { |device| table && device.part(table)&.guid&.downcase }.uniq.intersection(identities)
                 .map { |one| [entry.path, one] }
        end
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

      # Where the stores of this volume name a partition that is to be named otherwise.
      # @yieldparam device [Startup::BootStore::Device]
      # @yieldreturn [String, nil] the device as it is to be
      # @return [Array<Found>]
      def devices
        stores.flat_map do |entry, devices|
          devices.flat_map do |device|
            wanted = yield(device)
            wanted && wanted != device.bytes ? in_store(entry, device, wanted) : []
          end
        end
      end

      private

      def texts
        @texts ||= files(FILES).map { |entry| [entry, volume.file_head(entry.path, LARGEST).force_encoding('UTF-8').scrub('?')] }
      rescue Damaged, Unreadable, NotFound
        @texts = []
      end

      # One that is damaged names nothing.
      def stores
        @stores ||= files(STORES).uniq(&:path).filter_map do |entry|
          [entry, Startup::BootStore.new(volume.file_head(entry.path, LARGEST)).devices]
        rescue Damaged
          nil
        end
      rescue Unreadable, NotFound
        @stores = []
      end

      def volume = @volume ||= Volume.recognise_or_unknown(@disk).first

      def files(patterns)
        return [] unless volume.browsable?

        patterns.flat_map { |pattern| expand(pattern.split('/').drop(1)) }.select { |entry| entry.file? && entry.size.between?(1, LARGEST) }
      end

      def expand(names, path = '')
        return [volume.entry(path)] if names.empty?
        return expand(names.drop(1), "#{path}/#{names.first}") unless names.first.include?('*')

        volume.entries(path).select { |entry| ::File.fnmatch?(names.first, entry.name, ::File::FNM_CASEFOLD) }
              .flat_map { |entry| expand(names.drop(1), "#{path}/#{entry.name}") }
      rescue NotFound, Damaged
        []
      end

      # Only where the volume keeps the file's text as often as the file has it: not where it is
      # packed, cut by a fragment's edge, or kept in a record that has a checksum.
      def in_file(entry, text, old, new)
        found = volume.content_extents(entry).flat_map { |offset, length| offsets(offset, length, old) }.uniq
        return [] unless found.size == text.downcase.scan(old).size

        found.map do |offset|
          there = @disk.read(offset, old.bytesize)
          Found.new(path: entry.path, offset:, old: there, text: there == there.downcase ? new : new.upcase)
        end
      end

      # Piece by piece, where it lies across the edge of a fragment.
      def in_store(entry, device, wanted)
        pieces = slices(entry, device.at, device.bytes.bytesize)
        there = pieces.map { |offset, from, length| @disk.read(offset, length) == device.bytes.byteslice(from, length) }
        return [Found.new(path: entry.path, old: device.to_s)] unless pieces.sum(&:last) == device.bytes.bytesize && there.all?

        pieces.map do |offset, from, length|
          Found.new(path: entry.path, offset:, old: device.to_s, text: wanted.byteslice(from, length))
        end
      end

      # @return [Array<(Integer, Integer, Integer)>] byte of the volume, byte within the range, length of each piece of it
      def slices(entry, at, length)
        before = 0
        volume.content_extents(entry).filter_map do |offset, size|
          from = [at, before].max
          upto = [at + length, before + size].min
          before += size
          [offset + from - (before - size), from - at, upto - from] if upto > from
        end
      end

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
