# frozen_string_literal: true

module Evrel
  # Saved disks. An opened image answers `disk` (a read-only Disk with the
  # image's contents), `manifest`, `digests` and `close`.
  module Image
    CLUSTER = 65_536 # bytes; qcow2's usual cluster

    # @param path [String] a folder in the native format
    # @return [Image::Native]
    # @raise [Unreadable, Damaged, Unsupported]
    def self.open(path)
      return Native.new(path) if ::File.directory?(path)
      raise Unreadable.new("#{path} is not there", where: path) unless ::File.exist?(path)

      raise Unsupported.new("#{path} is no image folder", where: path,
                                                          hint: 'an image is a folder with manifest.json and disk.qcow2')
    end
  end
end
