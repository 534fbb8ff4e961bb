# frozen_string_literal: true

require 'securerandom'

module Evrel
  module Startup
    module Mend
      # New identities for a disk whose twin stays in use: of the disk and its
      # partitions, and in the start-up files that name them. Those of the volumes
      # are made anew by the tools of their systems.
      class Identities
        include Mend

        # @return [Draft]
        # @raise [Refused] where the disk has no GPT
        def draft
          raise Refused.new('only a disk with a GPT gets new identities here', where: 'sector 0') unless table.kind == 'gpt'

          was = table.guid
          renewed = parts_renewed
          fresh = table_with(renewed)
          references = rewritten(renewed)
          draft_of(fresh.pieces(disk.size) + references, title: 'Give the disk and its partitions new identities', before: was,
                                                         after: "#{fresh.guid}, and #{renewed.size} new partition GUIDs")
        end

        private

        def parts_renewed = table.partitions.to_h { |part| [part.guid, SecureRandom.uuid] }

        def table_with(renewed)
          parts = table.partitions.map { |part| part.dup.tap { |copy| copy.guid = renewed.fetch(part.guid) } }
          Table::Gpt.new(sector: table.sector, guid: SecureRandom.uuid, first_usable: table.first_usable, last_usable: table.last_usable,
                         partitions: parts, entry_count: table.entry_count, boot_code: table.boot_code).with_hybrid(table.hybrid)
        end

        # They have the same length: byte for byte, where they stand. Several in one sector become one piece.
        # @raise [Refused] where a file that names one cannot be changed in place
        def rewritten(renewed)
          found = table.partitions.flat_map do |part|
            files = Layout::References.new(part.window(disk))
            places = files.places(renewed.transform_keys(&:downcase))
            unplaced(files, renewed, places)
            places.map { |one| [part.start + one.offset, one.text] }
          end
          sectors(found)
        end

        def unplaced(files, renewed, places)
          named = files.named(renewed.keys.map(&:downcase)).map(&:first).uniq - places.map(&:path)
          raise Refused.new("#{named.first} names a partition in a way that cannot be changed in place", where: named.first) if named.any?
        end

        def sectors(found)
          changed = {}
          found.each do |offset, text|
            first = offset / 512 * 512
            last = (offset + text.bytesize - 1) / 512 * 512
            bytes = (first..last).step(512).map { |at| changed[at] || disk.read(at, 512) }.join
            bytes[offset - first, text.bytesize] = text
            (first..last).step(512) { |at| changed[at] = bytes.byteslice(at - first, 512) }
          end
          changed.sort
        end
      end
    end
  end
end
