# frozen_string_literal: true

require 'fileutils'

module Evrel
  module Image
    # A folder of what was learnt about images that are not our own and would
    # take long to learn again: packed disks, unpacked; digests of clusters.
    # Everything in it can be removed at any time.
    class Kept
      # Of unpacked disks; what was unused for longest goes before more is kept.
      MOST = 200 * (10**9)

      # @return [Integer] bytes that unpacked disks may take
      attr_reader :most

      # @param folder [String]
      # @param most [Integer] bytes that unpacked disks may take
      def initialize(folder, most: MOST)
        @folder = folder
        @most = most
        FileUtils.mkdir_p(folder)
      end

      # @param uid [String] of the image
      # @return [String, nil] path of the unpacked disk, where it is there
      def unpacked(uid) = there(unpacked_at(uid))&.tap { |path| FileUtils.touch(path, nocreate: true) }

      # @return [String, nil] path of the digests, where they are there
      def digests(uid) = there(digests_at(uid))

      # @return [String] where the unpacked disk goes
      def unpacked_at(uid) = ::File.join(@folder, "#{uid}.raw")

      # Removes unpacked disks, those that were unused for longest first, until the rest takes no more than it may.
      # @param uid [String] of the image whose disk was just unpacked: it stays
      def bound(uid)
        others = disks.reject { |path, _| path == unpacked_at(uid) }
        total = disks.sum { |_, stat| Room.of(stat) }
        others.sort_by { |_, stat| stat.mtime }.each do |path, stat|
          break if total <= @most

          FileUtils.rm_f(path)
          total -= Room.of(stat)
        end
      end

      # @return [String] where the digests go
      def digests_at(uid) = ::File.join(@folder, "#{uid}.b3")

      # Forgets all that is kept of an image.
      def forget(uid) = FileUtils.rm_f([unpacked_at(uid), digests_at(uid)])

      private

      def disks = Dir[::File.join(@folder, '*.raw')].to_h { |path| [path, ::File.stat(path)] }
      def there(path) = ::File.file?(path) ? path : nil
    end
  end
end
