# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # A loader that is in a folder of its own, in the place where every
      # firmware looks; with what lies beside it, since it may start that.
      class Fallback
        include Mend

        LARGEST = 64 * MIB

        # @return [Draft]
        # @raise [NotFound] where there is no such loader
        def draft
          part = table.partitions.find do |one|
            one.type == UefiPath::ESP
          end or raise NotFound.new('there is no start-up part', where: 'table')
          volume = @context.places.volume(part)
          from = @context.about.fetch(:from)
          pieces = edited(part) { |editor| files(volume, from).each { |to, path| editor.put(to, volume.file_head(path, LARGEST)) } }
          draft_of(pieces, title: 'Put a loader in the fallback place', before: "#{LoaderSteps::FALLBACK} is missing",
                           after: "#{LoaderSteps::FALLBACK}, a copy of #{from}")
        end

        private

        # @return [Hash{String=>String}] where to → where from
        def files(volume, from)
          folder = ::File.dirname(LoaderSteps::FALLBACK)
          beside = volume.entries(
            ::File.dirname(from)
          ).select { |entry| entry.file? && entry.name.match?(LoaderSteps::NEXT) && entry.path != from }
          { LoaderSteps::FALLBACK => from, **beside.to_h { |entry| ["#{folder}/#{entry.name}", entry.path] } }
        end
      end
    end
  end
end
