# frozen_string_literal: true

module Evrel
  module Startup
    # The entries of a loader that follows the Boot Loader Specification:
    # loader/entries/*.conf, and loader/loader.conf for the default.
    class LoaderEntries
      MOST = 64 * KIB # bytes of a configuration file that are read

      # One entry; linux and initrds are absolute paths on the start-up part.
      Entry = Struct.new(:path, :title, :linux, :initrds, :options, keyword_init: true) do
        # @return [String, nil] "PARTUUID=…", "UUID=…" or a device name
        def root = options[/(?:\A|\s)root=(\S+)/, 1]
      end

      # @param volume [Volume::Fat] the start-up part
      def initialize(volume)
        @volume = volume
      end

      # @return [Entry, nil] the one that starts when nobody touches a key
      def chosen
        names = @volume.entries('/loader/entries').select { |entry| entry.file? && entry.name.end_with?('.conf') }
                       .map(&:name).sort
        # The default is a pattern over file names; without one the last by name is newest.
        pattern = default
        name = (pattern && names.find { |one| ::File.fnmatch?(pattern, one) || one == "#{pattern}.conf" }) || names.last
        read("/loader/entries/#{name}") if name
      end

      private

      def default
        text('/loader/loader.conf')[/^\s*default\s+(\S+)/, 1]
      rescue NotFound
        nil
      end

      def read(path)
        lines = fields(path)
        kernel = lines.fetch('linux', lines['efi'])&.last
        Entry.new(path:, title: lines['title']&.last || ::File.basename(path, '.conf'), linux: kernel && absolute(kernel),
                  initrds: lines.fetch('initrd', []).map { |name| absolute(name) },
                  options: lines.fetch('options', []).join(' '))
      end

      # @return [Hash{String=>Array<String>}] key → its values, in order
      def fields(path)
        text(path).each_line.map(&:strip).reject { |line| line.start_with?('#') }
                  .filter_map { |line| line.split(/\s+/, 2) if line.match?(/\s/) }
                  .group_by(&:first).transform_values { |pairs| pairs.map(&:last) }
      end

      def absolute(path) = "/#{path.tr('\\', '/').delete_prefix('/')}"
      def text(path) = @volume.file_head(path, MOST).force_encoding('UTF-8').scrub
    end
  end
end
