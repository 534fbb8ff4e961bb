# frozen_string_literal: true

module Evrel
  # Files and folders of a volume, taken out into an archive that is written as
  # a stream: nothing is held in memory or put on a disk.
  module Archive
    KINDS = { 'zip' => 'Zip', 'tar' => 'Tar' }.freeze
    # What could not be taken is written down in the archive itself.
    NOTE = 'NOT-TAKEN.txt'
    LONGEST_NAME = 250
    # Control characters, those that turn the direction of writing, and what other systems take for a separator.
    UNSAFE = /[\u0000-\u001F\u007F-\u009F\u200E\u200F\u202A-\u202E\u2066-\u2069\\:*?"<>|]/

    module_function

    # @param path [String] on the volume
    # @return [String] relative, without anything that leads elsewhere when it is unpacked
    def safe_name(path)
      names = path.scrub('_').split('/').reject { |name| ['', '.'].include?(name) }
      names.map { |name| name == '..' ? '__' : name.gsub(UNSAFE, '_').sub(/[. ]+\z/, '_')[0, LONGEST_NAME] }.join('/')
    end

    # @param volume [Object] one that is browsable
    # @param paths [Array<String>] files and folders
    # @param kind [String] "zip" or "tar"
    # @param out [#<<] takes the bytes
    # @return [Array<String>] what was not taken, with the reason
    # @raise [NotFound] before anything is written
    def write(volume, paths, kind, out)
      entries = paths.map { |path| volume.entry(path) }
      writer = const_get(KINDS.fetch(kind)).new(out)
      Walk.new(volume, writer).take(entries)
    end
  end
end
