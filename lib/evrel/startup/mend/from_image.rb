# frozen_string_literal: true

require 'tmpdir'

module Evrel
  module Startup
    module Mend
      # Single files that are missing or damaged, as the image has them: with
      # their rights, owner and extended attributes where the volume keeps such.
      class FromImage
        include Mend

        LARGEST = 512 * MIB

        # A file of the image: as it was asked for, and where it lies.
        Found = Struct.new(:asked, :part, :path)

        # about: number (of the part), paths of the files, or several of which the first that the image has is meant
        # (:any_of), or a folder, all of whose files are; usr is the number of the part that is /usr, where it is one
        # of its own.
        # @return [Draft] symbolic links that lead there come back too, where they are missing
        # @raise [NotFound] where the image does not have them
        def draft
          found = wanted
          files = found.group_by(&:part).transform_values { |some| some.map(&:path) }
          links = parts.to_h { |part| [part, lost_links(part, found.map(&:asked))] }.reject { |_, lost| lost.empty? }
          pieces = (files.keys | links.keys).flat_map { |part| put(part, files.fetch(part, []), links.fetch(part, {})) }
          draft_of(pieces, title: "Put #{Units.list([*links.values.flat_map(&:keys), *files.values.flatten])} back from the image",
                           before: there(files), after: after(files, links))
        end

        private

        # Those in which it may lie: that of the system first.
        def parts = [@context.part, (@context.part(@context.about[:usr]) if @context.about[:usr])].compact

        # A part has the number that it had in the image.
        def image_part(part)
          @context.image_places.partitions.find { |one| one.number == part.number } or
            raise NotFound.new("the image has no partition #{part.number}", where: 'image')
        end

        def image_volume(part) = @context.image_places.volume(image_part(part))

        # @return [Array<Found>]
        def wanted
          names = Array(@context.about[:paths] || @context.about[:path])
          return names.map { |path| found(path) || lacks(path) } if names.any?
          return in_folder(@context.about[:folder]) if @context.about[:folder]
          raise Refused.new('no file is named', where: 'mend', hint: 'name it by its path') if any_of.empty?

          [any_of.lazy.filter_map { |path| found(path) }.first || lacks(any_of.first)]
        end

        def in_folder(folder)
          there = found(folder) || lacks(folder)
          files = image_volume(there.part).entries(there.path).select(&:file?).map { |entry| Found.new(entry.path, there.part, entry.path) }
          files.any? ? files : lacks("a file in #{folder}")
        end

        def any_of = Array(@context.about[:any_of])

        # @return [Found, nil]
        def found(path)
          parts.each do |part|
            volume = image_volume(part)
            return Found.new(path, part, volume.entry(named_in(part, path)).path) if volume.browsable?
          rescue NotFound
            next
          end
          nil
        end

        # Where /usr is apart, /bin, /lib and /sbin are links into it.
        def named_in(part, path) = part.number == @context.about[:usr] ? path.delete_prefix(SystemFiles::USR) : path

        # Those on the way to what was asked for that the disk has no more.
        # @return [Hash{String=>String}] path → target
        def lost_links(part, asked)
          volume = @context.places.volume(part)
          ways = asked.flat_map { |path| image_volume(part).browsable? ? image_volume(part).links(named_in(part, path)) : [] }
          ways.uniq.reject { |path, _| volume.named?(path) }.to_h
        end

        # @return [Array<(Integer, String)>]
        def put(part, paths, links)
          edited(part) do |editor|
            paths.each { |path| editor.put(path, bytes(part, path), about: meta(part, path)) }
            links.each { |path, target| editor.link(path, target) }
          end
        end

        def after(files, links)
          [*files.flat_map { |part, paths| paths.map { |path| "#{path}, #{Units.bytes(image_volume(part).entry(path).size)}" } },
           *links.values.flat_map { |all| all.map { |path, target| "#{path} leads to #{target}" } }].join(', ')
        end

        def there(files)
          known = files.flat_map { |part, paths| paths.select { |path| @context.places.volume(part).exist?(path) } }
          known.empty? ? 'It is not on the disk' : "#{Units.list(known)} as on the disk now"
        end

        def lacks(path)
          raise NotFound.new("the image does not have #{path} either", where: path, hint: 'choose another image of this computer')
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
