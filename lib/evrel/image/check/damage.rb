# frozen_string_literal: true

module Evrel
  module Image
    # Which files lie on the damaged or unread places of an image.
    class Damage
      MOST_FILES = 200 # that are named
      MOST_LOOKED = 2_000_000

      # @param image [Native, Foreign]
      def initialize(image)
        @image = image
      end

      # @param ranges [Array<(Integer, Integer)>] byte offset and length of each place on the disk, ascending
      # @return [Array<Hash>] part, path, size; a part whose files cannot be told has path nil
      def files(ranges)
        @image.manifest.parts.flat_map do |part|
          start = part['start_bytes']
          hit = ranges.select { |offset, length| Document.touches?(part, offset, length) }
          hit.empty? ? [] : in_part(part['number'], hit.map { |offset, length| [offset - start, length] })
        end
      end

      private

      def in_part(number, hit)
        volume = Contents.new(@image).volume(number)
        return [{ part: number, path: nil, size: nil }] unless volume.browsable?

        walk(volume).filter_map { |entry| { part: number, path: entry.path, size: entry.size } if touched?(volume, entry, hit) }
                    .first(MOST_FILES)
      rescue Error
        [{ part: number, path: nil, size: nil }]
      end

      # As each_entry does, but a directory that cannot be read is passed over.
      def walk(volume)
        queue = ['/']
        seen = 0
        Enumerator.new do |found|
          while (path = queue.pop) && seen < MOST_LOOKED
            entries(volume, path).each do |entry|
              seen += 1
              found << entry
              queue << entry.path if entry.directory? && entry.path.count('/') < 100
            end
          end
        end.lazy
      end

      def entries(volume, path)
        volume.entries(path)
      rescue Error
        []
      end

      def touched?(volume, entry, hit)
        volume.file_extents(entry).any? do |offset, length|
          from, = hit.bsearch { |start, size| start + size > offset }
          from && from < offset + length
        end
      rescue Error
        false
      end
    end
  end
end
