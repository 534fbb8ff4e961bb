# frozen_string_literal: true

require 'tempfile'

module Evrel
  module Volume
    # How small an ext can become: by resize2fs(8) -P, never below what its own
    # bitmaps count. What waits in a journal may need more.
    class ExtLimits
      # On top of what is counted while a journal waits: a part of that, and bytes.
      UNREPLAYED_SHARE = 50
      LEAST_UNREPLAYED = 16 * MIB

      # @param volume [Ext]
      # @param disk [Disk] the partition that it lies in
      def initialize(volume, disk)
        @volume = volume
        @disk = disk
      end

      # @return [Limits]
      def limits
        told = told_by_tool
        return of(@volume.size, 'what it needs cannot be computed: it can grow, not shrink') unless told

        least = [told, @volume.used_bytes].max
        return of(least) if @volume.clean?

        of(least + (least / UNREPLAYED_SHARE) + LEAST_UNREPLAYED,
           'it was not unmounted in order: it is checked, and what waits is carried out, before it is resized')
      end

      private

      def of(least, reason = nil)
        most = ((1 << 32) - 1) * @volume.block_size unless @volume.superblock.incompatible_feature?(ExtSuperblock::BITS_64)
        Limits.new(least: least.clamp(0, @volume.size), most:, resizer: ExtResizer, reason:)
      end

      # resize2fs reads no more for this than the superblock and the group
      # descriptors behind it: a sparse copy of those is enough.
      # @return [Integer, nil] bytes; nil where it does not say
      def told_by_tool
        return if @volume.superblock.incompatible_feature?(ExtSuperblock::META_BG)

        block = @volume.block_size
        groups = @volume.size.fdiv(@volume.superblock.blocks_per_group * block).ceil
        head = [(((2 * block) + (groups * 64)).fdiv(MIB).ceil + 1) * MIB, @disk.size].min
        Tempfile.create('evrel-ext', '/var/tmp', binmode: true) do |file|
          0.step(head - 1, MIB) { |at| file.write(@disk.read(at, [MIB, head - at].min)) }
          file.truncate(@volume.size)
          file.flush
          settle(file.path) unless @volume.clean?
          said = Evrel::Tool.run('resize2fs', '-P', file.path, write: [file.path]).text
          said[/minimum size of the filesystem: (\d+)/, 1]&.to_i&.*(block)
        end
      end

      # resize2fs says nothing of one that waits to be checked: the copy says that it does not.
      def settle(path)
        ['feature -needs_recovery', 'set_super_value state 1'].each do |request|
          Evrel::Tool.run('debugfs', '-w', '-n', '-R', request, path, write: [path])
        end
      end
    end
  end
end
