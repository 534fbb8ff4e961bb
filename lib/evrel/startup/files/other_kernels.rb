# frozen_string_literal: true

module Evrel
  module Startup
    # Kernels that are installed beside the one that is started, as they are
    # named by their versions: each with all that the one that is started has.
    class OtherKernels
      VERSION = %r{\A(.*/)?([^/\d]*)(\d+\.\d+[^/]*)(/.*)?\z}

      # version; files are pairs of the path that is named now and the one of this kernel
      Other = Struct.new(:version, :files)

      # @param places [Places]
      # @param choice [Choice]
      def initialize(places, choice)
        @places = places
        @choice = choice
      end

      # @return [Other, nil] the newest
      def newest
        part, path = @choice.kernel
        folder, stem, own, rest = path.match(VERSION)&.captures
        return if own.nil? || @choice.unified || part.nil?

        versions(part, folder, stem).reject { |one| one == own }.filter_map { |one| other(own, one, "#{folder}#{stem}", rest) }
                                    .max_by { |one| one.version.scan(/\d+/).map(&:to_i) }
      end

      private

      def versions(part, folder, stem)
        @places.volume(part).entries(folder).filter_map { |one| one.name.delete_prefix(stem) if one.name.start_with?(stem) }
               .grep(/\A\d+\.\d+/)
      rescue NotFound, BadPlace
        []
      end

      def other(own, version, before, rest)
        part, path = @choice.kernel
        kernel = "#{before}#{version}#{rest}"
        ramdisks = @choice.initrds.map { |place, name| [place, name, name.sub(own, version)] }
        return unless ramdisks.all? { |place, _, name| place && @places.exist?(place, name) } && kernel?(part, kernel)

        Other.new(version, [[path, kernel], *ramdisks.map { |_, old, new| [old, new] }].reject { |old, new| old == new })
      end

      def kernel?(part, path)
        @places.exist?(part, path) && KernelImage.new(@places.head(part, path, KernelImage::HEAD)).fine?
      rescue NotFound, BadPlace
        false
      end
    end
  end
end
