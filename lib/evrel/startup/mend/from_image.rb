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
        # (:any_of).
        # @return [Draft]
        # @raise [NotFound] where the image does not have them
        def draft
          part, paths = wanted
          old = there(part, paths)
          pieces = edited(part) do |editor|
            paths.each { |path| editor.put(path, bytes(part, path), about: meta(part, path)) }
          end
          draft_of(pieces, title: "Put #{Units.list(paths)} back from the image", before: old,
                           after: paths.map { |path| "#{path}, #{Units.bytes(image_volume(part).entry(path).size)}" }.join(', '))
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

        # @return [(Table::Partition, Array<String>)] links are followed
        def wanted
          part = @context.part
          names = Array(@context.about[:paths] || @context.about[:path])
          raise Refused.new('no file is named', where: 'mend', hint: 'name it by its path') if names.empty? && any_of.empty?
          return [part, names.map { |path| real(part, path) || lacks(path) }] if names.any?

          [part, [any_of.filter_map { |path| real(part, path) }.first || lacks(any_of.first)]]
        end

        def any_of = Array(@context.about[:any_of])

        def real(part, path)
          volume = image_volume(part)
          volume.entry(path).path if volume.browsable? && volume.exist?(path)
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
          @meta[path] ||= shown(part) { |file| Editor.for(image_volume(part), file).about(path) }
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
