# frozen_string_literal: true

module Evrel
  module Layout
    # What a part holds that nothing here resizes, and how that is grown by its
    # own system once the partition is larger.
    module Inside
      HOW = { 'lvm' => ['LVM', 'pvresize, lvextend, and the tool of each file system'],
              'luks1' => ['LUKS', '“cryptsetup resize”, and the tool of what it holds'],
              'luks2' => ['LUKS', '“cryptsetup resize”, and the tool of what it holds'],
              'btrfs' => ['Btrfs', '“btrfs filesystem resize max”'], 'xfs' => %w[XFS xfs_growfs], 'f2fs' => %w[F2FS resize.f2fs] }.freeze
      # These keep something at the end of their partition, or it is not known what they are.
      ENDS = %w[linux-raid firmware-raid zfs drbd bitlocker dynamic-disk unknown].freeze

      module_function

      # @param kind [String] of a volume
      # @return [String, nil] "LVM: only its partition grows; grow inside with …"
      def words(kind)
        name, tool = HOW[kind]
        name && "#{name}: only its partition grows; grow inside with #{tool}"
      end

      # @return [Boolean] whether its partition may be larger than it
      def larger?(kind) = !ENDS.include?(kind)
    end
  end
end
