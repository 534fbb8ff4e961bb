# frozen_string_literal: true

module Evrel
  module Image
    # What the emulator can be given to start an image from, as it lies there.
    module TrialSource
      module_function

      # @param image [Native, Foreign]
      # @param kept [Kept]
      # @return [Array<(String, String)>] path and format, as Startup::Trial takes them
      # @raise [Unsupported] where the emulator cannot open it
      def of(image, kept)
        if image.is_a?(Native)
          raise Unsupported.new('an image that a passphrase opens cannot be tried', where: image.path) if image.locked?

          return [local(image, image.disk_path), 'qcow2']
        end
        return [kept.unpacked(image.uid), 'raw'] if Packed::TOOLS.key?(image.format)
        if image.format == 'raw' && image.members.size > 1
          raise Unsupported.new('an image in several pieces cannot be tried',
                                where: image.path)
        end

        [local(image, image.path), image.format]
      end

      def local(image, path)
        image.shelf.local(path) or
          raise Unsupported.new('the emulator cannot start from a web shelf', where: path, hint: 'copy the image to a folder or a drive')
      end
      private_class_method :local
    end
  end
end
