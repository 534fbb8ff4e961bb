# frozen_string_literal: true

require 'securerandom'

module Evrel
  module Startup
    module Mend
      # New identities for a disk whose twin stays in use: of the disk, its
      # partitions and their volumes, and in the start-up files that name them.
      class Identities
        include Mend

        # @return [Draft]
        # @raise [Refused] where a file that names an identity cannot be changed in place, or something else names one,
        #   so that the disk would not start any more
        # @raise [Damaged] where a tool refuses a volume
        def draft
          @volumes = table.partitions.to_h { |part| [part.number, @context.places.volume(part)] }
          pieces = fresh.pieces(disk.size) + table.partitions.flat_map { |part| inside(part) }
          draft_of(pieces, title: 'Give the disk and its volumes identities of their own', before: table.guid,
                           after: "#{fresh.guid}, with #{guids.size} new names of partitions and #{uuids.size} of volumes")
            .tap { |draft| still_starts!(draft.changes) }
        end

        private

        # What is named where nobody looks (a loader that is one file with its system, code that is packed) shows in the chain.
        def still_starts!(changes)
          changed = Disk::Changed.new(disk, changes.map { |one| [one.offset, one.after] })
          Computer::FIRMWARES.each do |firmware|
            before, after = [disk, changed].map { |one| Startup.chain(one, 'firmware' => firmware).find { |step| step.state == :no } }
            next if before || after.nil?

            raise Refused.new("the disk would not start any more: #{after.title} (#{after.detail})", where: after.evidence.to_s,
                                                                                                     hint: 'take the twin out instead')
          end
        end

        # @return [Table::Gpt, Table::Mbr]
        def fresh = @fresh ||= table.kind == 'gpt' ? fresh_gpt : table.with_signature(SecureRandom.random_number(1...(1 << 32)))

        # @return [Hash{String=>String}] what the partitions are called → what they are to be called
        def guids
          @guids ||= table.partitions.to_h { |part| [part.guid, renewed_part(part).guid] }
        end

        def renewed_part(part) = fresh.partitions.find { |one| one.number == part.number }

        def fresh_gpt
          parts = table.partitions.map { |part| part.dup.tap { |copy| copy.guid = SecureRandom.uuid } }
          Table::Gpt.new(sector: table.sector, guid: SecureRandom.uuid, first_usable: table.first_usable, last_usable: table.last_usable,
                         partitions: parts, entry_count: table.entry_count, boot_code: table.boot_code).with_hybrid(table.hybrid)
        end

        # A short serial that is a piece of a GUID could not be told from it in a file: it stays.
        # @return [Hash{String=>String}] of volumes whose kind can be told anew: old identity → new one of the same form
        def uuids
          @uuids ||= @volumes.values.to_h { |volume| [volume.uuid, volume.fresh_identity] }.compact
                             .reject { |uuid, _| guids.keys.any? { |guid| guid.downcase.include?(uuid.downcase) } }
        end

        # @return [Array<(Integer, String)>]
        def inside(part)
          volume = @volumes.fetch(part.number)
          found = references(part)
          return [] if found.empty? && !uuids.key?(volume.uuid)

          Overlay.new(disk).edit(part) do |path|
            volume.editor(path).identity = uuids.fetch(volume.uuid) if uuids.key?(volume.uuid)
            found.each { |one| ::File.binwrite(path, one.text, one.offset) }
          end
        end

        # They have the same length: byte for byte, where they stand.
        def references(part)
          renewed = guids.merge(uuids).transform_keys(&:downcase)
          files = Layout::References.new(part.window(disk))
          places = files.places(renewed)
          named = files.named(renewed.keys).map(&:first).uniq - places.map(&:path)
          devices = files.devices { |device| renamed(device) }
          named += devices.reject(&:offset).map(&:path)
          return places + devices if named.empty?

          raise Refused.new("#{named.first} names a partition in a way that cannot be changed in place", where: named.first)
        end

        def renamed(device)
          part = device.part(table)
          part && device.naming(renewed_part(part), fresh)
        end
      end
    end
  end
end
