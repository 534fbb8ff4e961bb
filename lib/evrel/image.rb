# frozen_string_literal: true

module Evrel
  # Saved disks. An opened image answers `disk` (a read-only Disk with the
  # image's contents), `manifest` (a Document), `digests`, `cluster(index)`,
  # `table`, `format`, `members` and `close`.
  module Image
    CLUSTER = 65_536 # bytes; qcow2's usual cluster, and the unit of digests

    # The one way to open an image, for the application, its workers and the terminal.
    # @param shelf [Shelf::Folder, Shelf::Web]
    # @param path [String] on it: a folder in the native format, or a file in any other
    # @param kept [Kept, nil] where packed disks are unpacked to
    # @param keys [Keys] what opens those that are locked
    # @yieldparam done [Integer] as Opener#open
    # @return [Native, Foreign]
    # @raise [Unreadable, Damaged, Unsupported]
    def self.at(shelf, path, kept: nil, keys: Keys.none, &block) = Opener.new(shelf, path, kept:, keys:).open(&block)

    # @param path [String] on this machine
    # @return [Native, Foreign]
    # @raise [Unreadable, Damaged, Unsupported]
    def self.open(path, **how, &)
      shelf, name = Shelf::Folder.around(path)
      at(shelf, name, **how, &)
    end
  end
end
