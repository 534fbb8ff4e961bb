# frozen_string_literal: true

module Evrel
  # Saved disks. An opened image answers `disk` (a read-only Disk with the
  # image's contents), `manifest` (a Document), `digests`, `cluster(index)`,
  # `table`, `format`, `members` and `close`.
  module Image
    CLUSTER = 65_536 # bytes; qcow2's usual cluster, and the unit of digests

    # @param path [String] a folder in the native format, or a file in any other
    # @param kept [Kept, nil] where packed disks are unpacked to
    # @yieldparam done [Integer] as Opener#open
    # @return [Native, Foreign]
    # @raise [Unreadable, Damaged, Unsupported]
    def self.open(path, kept: nil, &block)
      shelf, name = Shelf::Folder.around(path)
      Opener.new(shelf, name, kept:).open(&block)
    end
  end
end
