# frozen_string_literal: true

require 'tmpdir'

module Evrel
  module Volume
    # NTFS, mounted.
    class NtfsEditor < Editor
      private

      def put_file(name, from, _about)
        Dir.mktmpdir('evrel-ntfs') do |folder|
          tool('ntfs-3g', @path, folder)
          begin
            # A link on it would lead to files of this machine.
            Linux::Beneath.copy(folder, name, from)
          ensure
            tool('umount', folder)
          end
        end
      end
    end
  end
end
