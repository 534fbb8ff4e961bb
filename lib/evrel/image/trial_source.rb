# frozen_string_literal: true

module Evrel
  module Image
    # What the emulator is given to start an image from: its file, where there is
    # one that it opens by itself; else the disk in it, shown as a file.
    module TrialSource
      module_function

      # @param image [Native, Foreign] stays open meanwhile
      # @param kept [Kept]
      # @yieldparam path [String]
      # @yieldparam format [String] as Startup::Trial takes it
      # @raise [Unsupported] where this machine cannot show it
      def lend(image, kept, &)
        path, format = own_file(image, kept)
        path ? yield(path, format) : image.disk.as_file { |shown| yield shown, 'raw' }
      end

      # @return [Array<(String, String)>, nil]
      def own_file(image, kept)
        return [kept.unpacked(image.uid), 'raw'] if image.is_a?(Foreign) && Packed::TOOLS.key?(image.format)
        return if image.locked? || (image.format == 'raw' && image.members.size > 1)

        path = image.shelf.local(image.is_a?(Native) ? image.disk_path : image.path)
        [path, image.is_a?(Native) ? 'qcow2' : image.format] if path
      end
      private_class_method :own_file
    end
  end
end
