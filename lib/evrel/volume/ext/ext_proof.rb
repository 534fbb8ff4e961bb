# frozen_string_literal: true

module Evrel
  module Volume
    # Holds the block bitmaps of an ext volume against all that can contradict
    # them: checksums, free counts, its own structures, and what inodes claim.
    # A group whose bitmap is contradicted is kept whole; where more is wrong,
    # the whole volume.
    class ExtProof
      # What must be the same in all copies of the superblock.
      GEOMETRY = %i[inode_count block_count log_block_size first_data_block blocks_per_group inodes_per_group inode_bytes uuid].freeze
      MOST_TOLD = 20

      # @param disk [Disk] the volume
      # @param superblock [ExtSuperblock]
      # @param groups [ExtGroups]
      # @param bitmaps [ExtBitmaps] is told which groups are kept whole
      def initialize(disk, superblock, groups, bitmaps)
        @disk = disk
        @super = superblock
        @groups = groups
        @bitmaps = bitmaps
        @checksums = ExtChecksums.new(superblock)
        @doubts = []
      end

      # @return [Boolean] whether all of the volume is kept; after `doubts`
      attr_reader :whole

      # @return [Array<String>] what contradicts the bitmaps; empty where they are proved
      def doubts
        reason = unread_kind || wrong_superblock || wrong_groups || wrong_count || wrong_place || wrong_claim
        @whole = !reason.nil?
        [*reason, *told]
      rescue BadPlace => e
        @whole = true
        [e.message, *told]
      end

      private

      # What this proof does not understand, it does not believe.
      def unread_kind
        return 'its journal waits to be replayed' if @super.incompatible_feature?(ExtSuperblock::RECOVER)
        return 'its map counts clusters of several blocks' if @super.read_only_feature?(ExtSuperblock::BIGALLOC)
        return 'it has features that are not known here' if
          @super.incompatible_feature?(~ExtSuperblock::KNOWN_INCOMPATIBLE) || @super.read_only_feature?(~ExtSuperblock::KNOWN_READ_ONLY) ||
          @super.creator != ExtClaims::LINUX

        nil
      end

      def wrong_superblock
        return 'its superblock does not match its checksum' unless @checksums.superblock?(@disk.read(1024, 1024))

        group = (1...@groups.count).find { |number| @groups.backup?(number) } or return
        copy = ExtSuperblock.read(@disk.read(@groups.start(group) * @super.block_size, 1024))
        return "the copy of its superblock in group #{group} is none" unless copy.magic == Ext::MAGIC

        field = GEOMETRY.find { |name| copy.send(name) != @super.send(name) }
        "the copy of its superblock in group #{group} says another #{field.to_s.tr('_', ' ')}" if field
      end

      # @return [String, nil] a descriptor that cannot be believed; bitmaps that cannot are kept whole by themselves
      def wrong_groups
        @groups.count.times do |group|
          return "the descriptor of block group #{group} does not match its checksum" unless
            @checksums.descriptor?(@groups[group].bytes, group)

          reason = wrong_bitmap(group) or next
          doubt(group, reason)
          @bitmaps.keep_whole(group)
        end
        nil
      end

      def wrong_bitmap(group)
        own = @groups[group]
        return 'bitmap does not match its checksum' unless
          @bitmaps.never_written?(group) || @checksums.bitmap?(@bitmaps[group], own.bytes)

        free = @bitmaps.free(group)
        "#{free} blocks are free in its bitmap, #{own.free_blocks} in its descriptor" unless free == own.free_blocks
      rescue BadPlace => e
        "bitmap cannot be read: #{e.message}"
      end

      # The superblock may count only what was free at the last mount: then its count proves nothing.
      def wrong_count
        return if @doubts.any?

        sum = @groups.count.times.sum { |group| @groups[group].free_blocks }
        "#{sum} blocks are free by its groups, #{@super.free_blocks} by its superblock" unless sum == @super.free_blocks
      end

      def wrong_place
        @groups.count.times do |group|
          block, = @groups.structures(group).find { |place, count| !@bitmaps.marked?(place, count) }
          return "what belongs to group #{group} itself, in block #{block}, counts as free" if block
        end
        block = @super.protection_block if @super.incompatible_feature?(ExtSuperblock::MOUNT_PROTECTION)
        "block #{block}, for protection against two mounts, counts as free" if block&.positive? && !marked?(block, 1)
      end

      def wrong_claim
        ExtClaims.new(@disk, @super, @groups).each do |inode, block, count|
          return "blocks of inode #{inode}, at block #{block}, count as free" unless @bitmaps.marked?(block, count)
        end
        nil
      end

      def marked?(block, count)
        block.between?(@super.first_data_block, @super.block_count - 1) && @bitmaps.marked?(block, count)
      end

      def doubt(group, reason) = @doubts << "block group #{group}: #{reason}"

      def told
        return @doubts if @doubts.size <= MOST_TOLD

        [*@doubts.first(MOST_TOLD), "#{@doubts.size - MOST_TOLD} more block groups"]
      end
    end
  end
end
