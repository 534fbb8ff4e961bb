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
        fields = text(path).each_line.filter_map { |line| line.strip.split(/\s+/, 2) unless line.strip.start_with?('#') }
        value = ->(key) { fields.reverse.assoc(key)&.last }
        kernel = value['linux'] || value['efi']
        Entry.new(path:, title: value['title'] || ::File.basename(path, '.conf'), linux: kernel && absolute(kernel),
                  initrds: fields.select { |key, _| key == 'initrd' }.filter_map { |_, name| absolute(name) if name },
                  options: fields.select { |key, _| key == 'options' }.map(&:last).join(' '))
      end

      def absolute(path) = "/#{path.tr('\\', '/').delete_prefix('/')}"
      def text(path) = @volume.file_head(path, MOST).force_encoding('UTF-8').scrub
    end
  end
end
