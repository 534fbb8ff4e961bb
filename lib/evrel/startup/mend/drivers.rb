# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # Driver packs, into a folder of the restored NTFS volume, where its system
      # finds them.
      class Drivers
        include Mend

        FOLDER = '/Drivers'

        # @return [Draft]
        # @raise [NotFound] where a pack is not there
        def draft
          part = @context.part
          packs = Array(@context.about.fetch(:packs)).map { |folder| DriverPack.read(folder) }
          pieces = edited(part) do |editor|
            packs.each { |pack| pack.files.each { |name, path| editor.put("#{FOLDER}/#{pack.name}/#{name}", ::File.binread(path)) } }
          end
          names = packs.map(&:name).join(', ')
          draft_of(pieces, title: "Place #{names} in partition #{part.number}", before: 'Not there',
                           after: "#{FOLDER}/#{packs.map(&:name).join(", #{FOLDER}/")}")
        end
      end
    end
  end
end
