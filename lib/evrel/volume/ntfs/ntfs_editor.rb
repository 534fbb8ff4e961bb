# frozen_string_literal: true

require 'fileutils'
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
            FileUtils.mkdir_p(::File.dirname("#{folder}#{name}"))
            FileUtils.cp(from, "#{folder}#{name}")
          ensure
            tool('umount', folder)
          end
        end
      end
    end
  end
end
