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
        return unless alone?(image)

        native = image.is_a?(Native)
        path = image.shelf.local(native ? image.disk_path : image.path)
        [path, native ? 'qcow2' : image.format] if path
      end

      # What a chain builds on was looked up and checked here: nobody looks it up anew along another way.
      def alone?(image)
        !image.locked? && !(image.format == 'raw' && image.members.size > 1) && !(image.disk.is_a?(Qcow2) && image.disk.backing)
      end
      private_class_method :own_file, :alone?
    end
  end
end
