# frozen_string_literal: true

module Evrel
  module Volume
    # Between which sizes a volume can be brought, and how: least and most are
    # bytes (most is nil without a limit below the disk's), way is
    #
    #   :ext     grown above the image, shrunk in the scratch room
    #   :ntfs    grown and shrunk in the scratch room
    #   :fat     made anew with the same files
    #   :swap    made anew
    #
    # and nil where it keeps its size, with the reason.
    Limits = Struct.new(:least, :most, :way, :reason, keyword_init: true) do
      # @param size [Integer] bytes of a volume that keeps its size
      # @param reason [String]
      def self.fixed(size, reason) = new(least: size, most: size, way: nil, reason:)

      # @param volume [Object] one of the kinds of Volume
      # @param disk [Disk] the partition that it lies in
      # @param doubts [Array<String>] why its map of used blocks is not believed
      # @return [Limits]
      # @raise [Unreadable]
      def self.of(volume, disk, doubts = [])
        return fixed(volume.size, "it keeps its size: #{LimitsOf.doubt(volume, doubts)}") if doubts.any? && !LimitsOf.only_waits?(volume)

        case volume
        when Ext then LimitsOf.ext(volume, disk)
        when Ntfs then LimitsOf.ntfs(volume)
        when Fat then LimitsOf.fat(volume)
        when Swap then new(least: LimitsOf::LEAST_SWAP, most: nil, way: :swap)
        else fixed(volume.size || disk.size, "#{LimitsOf.word(volume)} keeps its size: no tool here resizes it")
        end
      rescue Damaged => e
        fixed(disk.size, "it keeps its size: #{e.message}")
      end

      def resizable? = !way.nil?
    end
  end
end
