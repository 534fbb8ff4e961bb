# frozen_string_literal: true

require 'open3'
require 'tempfile'

module Evrel
  module Volume
    # What each kind of volume needs.
    module LimitsOf
      LEAST_SWAP = MIB
      # Sectors of 512 bytes are counted in 32 bits (FAT specification, BPB_TotSec32).
      MOST_FAT = (1 << 32) * 512
      # On top of what is counted while a journal waits: a part of that, and bytes.
      UNREPLAYED_SHARE = 50
      LEAST_UNREPLAYED = 16 * MIB
      NTFS_MOST_CLUSTERS = (1 << 32) - 1

      module_function

      def word(volume) = volume.kind == 'unknown' ? 'a volume of an unknown kind' : volume.kind

      # @return [Boolean] whether nothing is wrong with it but that its journal waits: that is replayed before it is resized
      def only_waits?(volume) = volume.is_a?(Ext) && volume.superblock.incompatible_feature?(ExtSuperblock::RECOVER)

      # Smallest by resize2fs(8) -P, never below what its own bitmaps count. What waits in a journal may need more.
      def ext(volume, disk)
        most = volume.superblock.incompatible_feature?(ExtSuperblock::BITS_64) ? nil : ((1 << 32) - 1) * volume.block_size
        told = ext_told(volume, disk)
        unless told
          return Limits.new(least: volume.size, most:, way: :ext,
                            reason: 'what it needs cannot be computed: it can grow, not shrink')
        end

        least = [told, volume.used_bytes].max
        return Limits.new(least: least.clamp(0, volume.size), most:, way: :ext) if volume.clean?

        least += (least / UNREPLAYED_SHARE) + LEAST_UNREPLAYED
        Limits.new(least: least.clamp(0, volume.size), most:, way: :ext,
                   reason: 'it was not unmounted in order: it is checked, and what waits is carried out, before it is resized')
      end

      # resize2fs reads no more for this than the superblock and the group
      # descriptors behind it: a sparse copy of those is enough.
      # @return [Integer, nil] bytes; nil where it does not say
      def ext_told(volume, disk)
        return if volume.superblock.incompatible_feature?(ExtSuperblock::META_BG)

        groups = volume.size.fdiv(volume.superblock.blocks_per_group * volume.block_size).ceil
        head = [(((2 * volume.block_size) + (groups * 64)).fdiv(MIB).ceil + 1) * MIB, disk.size].min
        Tempfile.create('evrel-ext', '/var/tmp', binmode: true) do |file|
          0.step(head - 1, MIB) { |at| file.write(disk.read(at, [MIB, head - at].min)) }
          file.truncate(volume.size)
          file.flush
          settle(file.path) unless volume.clean?
          said, = Open3.capture2e({ 'LC_ALL' => 'C' }, 'resize2fs', '-P', file.path)
          said[/minimum size of the filesystem: (\d+)/, 1]&.to_i&.*(volume.block_size)
        end
      end

      # resize2fs says nothing of one that waits to be checked: the copy says that it does not.
      def settle(path)
        ['feature -needs_recovery', 'set_super_value state 1'].each do |request|
          Open3.capture2e({ 'LC_ALL' => 'C' }, 'debugfs', '-w', '-n', '-R', request, path)
        end
      end

      # @return [String] the first doubt, or for NTFS what can be done about it
      def doubt(volume, doubts) = volume.is_a?(Ntfs) && !volume.clean? ? ntfs_reason(volume) : doubts.first

      # Nothing here carries out what waits in an NTFS: only its own system does.
      def ntfs_reason(volume)
        return 'the system on it is hibernated: start it, and shut it down wholly (not into sleep)' if volume.hibernated?
        return 'its journal waits: start its own system, and shut it down in order' if volume.journal_waits?

        'it asks for a check: start its own system, and let it check this volume'
      end

      # All that ntfsresize(8) cannot move is at its place from the start; what
      # it moves needs room of its own while it is moved: a hundredth on top.
      def ntfs(volume)
        return Limits.fixed(volume.size, "it keeps its size: #{ntfs_reason(volume)}") unless volume.clean?

        used = volume.used_bytes
        least = used + (used / 100) + (4 * MIB)
        Limits.new(least: [least, volume.size].min, most: NTFS_MOST_CLUSTERS * volume.block_size, way: :ntfs)
      end

      # The number of clusters decides the kind: it is kept, and so are clusters
      # of the same size.
      def fat(volume)
        return Limits.fixed(volume.size, 'a FAT12 volume keeps its size') if volume.bits == 12

        clusters = [volume.used_bytes / volume.cluster_size, volume.bits == 32 ? Fat::FAT16_BELOW : Fat::FAT12_BELOW].max + 64
        tables = (clusters + 2) * volume.bits / 8 * 2
        most = volume.bits == 32 ? [MOST_FAT, Fat::MOST_CLUSTERS * volume.cluster_size].min : (Fat::FAT16_BELOW - 64) * volume.cluster_size
        least = (clusters * volume.cluster_size) + tables + (128 * KIB)
        # The files are written anew: their directories may take a cluster more.
        Limits.new(least: [least + (least / 100), volume.size].min, most: [most, volume.size].max, way: :fat)
      end
    end
  end
end
