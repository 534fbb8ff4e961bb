# frozen_string_literal: true

module Evrel
  module Startup
    # The entries of a loader that follows the Boot Loader Specification:
    # loader/entries/*.conf, unified kernel images in EFI/Linux, and
    # loader/loader.conf for the default.
    class LoaderEntries
      MOST = 64 * KIB # bytes of a configuration file that are read
      ENTRIES = '/loader/entries'
      UNIFIED = '/EFI/Linux'

      # @param places [Places]
      # @param part [Table::Partition] the start-up part
      def initialize(places, part)
        @places = places
        @part = part
        @volume = places.volume(part)
      end

      # @return [Boolean] whether there is anything of the kind
      def any? = @volume.exist?(ENTRIES) || unified.any?

      # @return [Choice, nil] the one that starts when nobody touches a key
      def chosen
        names = (names_in(ENTRIES, '.conf') + unified).sort
        # The default is a pattern over file names; without one the last by name is newest.
        pattern = default
        name = (pattern && names.find { |one| ::File.fnmatch?(pattern, one) || one == "#{pattern}.conf" }) || names.last or return
        name.end_with?('.conf') ? read("#{ENTRIES}/#{name}") : image("#{UNIFIED}/#{name}")
      end

      private

      def unified = names_in(UNIFIED, '.efi')

      def names_in(folder, suffix)
        @volume.entries(folder).select { |entry| entry.file? && entry.name.downcase.end_with?(suffix) }.map(&:name)
      rescue NotFound
        []
      end

      def default
        text('/loader/loader.conf')[/^\s*default\s+(\S+)/, 1]
      rescue NotFound
        nil
      end

      def read(path)
        lines = fields(path)
        kernel = (lines['linux'] || lines['efi'])&.last
        Choice.new(title: lines['title']&.last || ::File.basename(path, '.conf'), kernel: kernel && [@part, absolute(kernel)],
                   initrds: lines.fetch('initrd', []).map { |name| [@part, absolute(name)] },
                   options: lines.fetch('options', []).join(' '), where: path, config: [@part, path])
      end

      def image(path)
        Choice.new(
          title: ::File.basename(path, '.efi'), kernel: [@part, path], initrds: [], where: path,
          unified: Pe.read(@volume.file_head(path, Pe::HEAD))
        ).tap { |choice| choice.options = Unified.new(@places, choice).options }
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
