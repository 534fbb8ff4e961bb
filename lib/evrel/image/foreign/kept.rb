# frozen_string_literal: true

require 'fileutils'

module Evrel
  module Image
    # A folder of what was learnt about images that are not our own and would
    # take long to learn again: packed disks, unpacked; digests of clusters.
    # Everything in it can be removed at any time.
    class Kept
      # @param folder [String]
      def initialize(folder)
        @folder = folder
        FileUtils.mkdir_p(folder)
      end

      # @param uid [String] of the image
      # @return [String, nil] path of the unpacked disk, where it is there
      def unpacked(uid) = there(unpacked_at(uid))

      # @return [String, nil] path of the digests, where they are there
      def digests(uid) = there(digests_at(uid))

      # @return [String] where the unpacked disk goes
      def unpacked_at(uid) = ::File.join(@folder, "#{uid}.raw")

      # @return [String] where the digests go
      def digests_at(uid) = ::File.join(@folder, "#{uid}.b3")

      # Forgets all that is kept of an image.
      def forget(uid) = FileUtils.rm_f([unpacked_at(uid), digests_at(uid)])

      private

      def there(path) = ::File.file?(path) ? path : nil
    end
  end
end
