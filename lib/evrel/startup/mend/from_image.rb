# frozen_string_literal: true

require 'open3'
require 'tmpdir'

module Evrel
  module Startup
    module Mend
      # Single files that are missing or damaged, as the image has them: with
      # their rights, owner and extended attributes where the volume keeps such.
      class FromImage
        include Mend

        LARGEST = 512 * MIB

        # about: number (of the part), paths of the files, or several of which the first that the image has is meant
        # (:any_of), or a folder, all of whose files are.
        # @return [Draft] symbolic links that lead there come back too, where they are missing
        # @raise [NotFound] where the image does not have them
        def draft
          part = @context.part
          names = wanted(part)
          paths = names.map { |name| image_volume(part).entry(name).path }
          links = lost_links(part, names)
          pieces = edited(part) do |editor|
            paths.each { |path| editor.put(path, bytes(part, path), about: meta(part, path)) }
            links.each { |path, target| editor.link(path, target) }
          end
          draft_of(pieces, title: "Put #{Units.list([*links.map(&:first), *paths])} back from the image",
                           before: there(part, paths), after: after(part, paths, links))
        end

        private

        def image_places
          @image_places ||= begin
            image = @context.image!
            table = Table.read(image) or raise NotFound.new('the image has no partition table', where: 'image')
            Places.new(image, table)
          end
        end

        # A part has the number that it had in the image.
        def image_part(part)
          image_places.partitions.find { |one| one.number == part.number } or
            raise NotFound.new("the image has no partition #{part.number}", where: 'image')
        end

        def image_volume(part) = image_places.volume(image_part(part))

        # @return [Array<String>] as they are named
        def wanted(part)
          names = Array(@context.about[:paths] || @context.about[:path])
          return names.each { |path| there?(part, path) || lacks(path) } if names.any?
          return in_folder(part, @context.about[:folder]) if @context.about[:folder]
          raise Refused.new('no file is named', where: 'mend', hint: 'name it by its path') if any_of.empty?

          [any_of.find { |path| there?(part, path) } || lacks(any_of.first)]
        end

        def in_folder(part, folder)
          return lacks(folder) unless there?(part, folder)

          files = image_volume(part).entries(folder).select(&:file?).map(&:path)
          files.any? ? files : lacks("a file in #{folder}")
        end

        def any_of = Array(@context.about[:any_of])
        def there?(part, path) = image_volume(part).browsable? && image_volume(part).exist?(path)

        # Those of the image that the disk has no more.
        def lost_links(part, names)
          volume = @context.places.volume(part)
          names.flat_map { |name| image_volume(part).links(name) }.uniq.reject { |path, _| volume.named?(path) }
        end

        def after(part, paths, links)
          [*paths.map { |path| "#{path}, #{Units.bytes(image_volume(part).entry(path).size)}" },
           *links.map { |path, target| "#{path} leads to #{target}" }].join(', ')
        end

        def lacks(path)
          raise NotFound.new("the image does not have #{path} either", where: path, hint: 'choose another image of this computer')
        end

        def there(part, paths)
          volume = @context.places.volume(part)
          known = paths.select { |path| volume.exist?(path) }
          known.empty? ? 'It is not on the disk' : "#{Units.list(known)} as on the disk now"
        end

        def bytes(part, path)
          size = image_volume(part).entry(path).size
          raise DoesNotFit.new("#{path} is too large for this", where: path) if size > LARGEST

          image_volume(part).file_head(path, LARGEST)
        end

        # By the tool of its own system, on the image's part as a file.
        def meta(part, path)
          return {} unless image_volume(part).kind.start_with?('ext')

          @meta ||= {}
          @meta[path] ||= shown(part) { |file| image_volume(part).editor(file).about(path) }
        end

        def shown(part, &)
          window = image_part(part).window(@context.image!)
          Dir.mktmpdir('evrel-image') do |folder|
            Disk::Served.over(window) { |below| Disk::Layer.new(folder, below, cluster: 64 * KIB).as_file(0, window.size, &) }
          end
        end
      end
    end
  end
end
