# frozen_string_literal: true

module Evrel
  # Brings a volume to another size with the tools of its own system. Each kind
  # works on a plain file of the volume's bytes. The same bytes, size and time
  # give the same bytes.
  module Resize
    KINDS = { ext: Ext, ntfs: Ntfs, fat: Fat, swap: Swap }.freeze

    # @param way [Symbol] as in Volume::Limits
    # @param path [String] of a file that holds the volume; its size becomes the new one
    # @param size [Integer] bytes
    # @param sector [Integer] bytes of the drive that it will lie on
    # @param time [Time] that the tools take for now
    # @raise [Damaged] where a tool refuses the volume
    def self.file(way, path, size, sector:, time:)
      KINDS.fetch(way).new(path, Tool.new(time)).resize(size, sector:)
    end
  end
end
