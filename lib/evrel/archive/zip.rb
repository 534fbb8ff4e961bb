# frozen_string_literal: true

require 'zip_kit'

module Evrel
  module Archive
    # A .zip, large files included.
    class Zip
      # @param out [#<<]
      def initialize(out)
        @streamer = ZipKit::Streamer.new(out, auto_rename_duplicate_filenames: true)
      end

      def folder(name, time) = @streamer.add_empty_directory(dirname: name, modification_time: time)

      # @yieldparam sink [#<<]
      def file(name, time, _size, &) = @streamer.write_file(name, modification_time: time, &)

      def close = @streamer.close
    end
  end
end
