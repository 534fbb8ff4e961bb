# frozen_string_literal: true

module Evrel
  # Brings a volume to another size with the tools of its own system. Each kind
  # works on a plain file of the volume's bytes; ext also where it lies on a
  # disk. The same bytes, size and time give the same bytes.
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

    # The check that a file system's own tool makes; nothing is changed.
    # @param kind [String] of the volume
    # @param path [String]
    # @param offset [Integer] bytes at which the volume begins in the file
    # @return [String, nil] what the tool says is wrong; nil where all is well or no tool checks it in place
    def self.problem(kind, path, offset: 0)
      Ext.new(path, Tool.new(Time.at(0)), offset:).problem if kind.to_s.start_with?('ext')
    end
  end
end
