# frozen_string_literal: true

module Evrel
  module Volume
    # FAT, by mtools.
    class FatEditor < Editor
      private

      def put_file(name, from, _about)
        folders(name).each { |folder| tool('mmd', '-i', @path, '-D', 's', "::#{folder}", quiet: true) }
        tool('mcopy', '-o', '-i', @path, from, "::#{name}", given: [from])
      end
    end
  end
end
