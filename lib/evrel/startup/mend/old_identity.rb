# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # Volumes get the identities back that the image has for them, so that
      # everything that names them is right again, wherever it stands.
      class OldIdentity
        include Mend

        # about: spec ("UUID=…") of the only one that is meant; all without it.
        # @return [Draft]
        # @raise [Refused] where no volume has another identity than in the image
        def draft
          changed = lost
          raise Refused.new('every volume has the identity that the image has for it', where: 'volumes') if changed.empty?

          pieces = changed.flat_map { |part, was| edited(part) { |editor| editor.identity = was } }
          draft_of(pieces, title: "Give #{Units.list(changed.keys.map { |part| "partition #{part.number}" })} its old identity back",
                           before: changed.keys.map { |part| volume(part).uuid }.join(', '), after: changed.values.join(', '))
        end

        private

        def volume(part) = @context.places.volume(part)

        # A partition has the number that it had in the image.
        # @return [Hash{Table::Partition=>String}] part of the disk → what its volume is called in the image
        def lost
          before = @context.image_places
          table.partitions.filter_map do |part|
            old = before.partitions.find { |one| one.number == part.number }&.then { |one| before.volume(one) }
            [part, old.uuid] if old&.uuid && other?(part, old) && wanted?(old.uuid)
          end.to_h
        end

        # Of the same kind, with an identity that can be told anew; one that another volume has is not given twice.
        def other?(part, old)
          now = volume(part)
          now.kind == old.kind && now.fresh_identity && !now.uuid.to_s.casecmp?(old.uuid) &&
            table.partitions.none? { |one| volume(one).uuid.to_s.casecmp?(old.uuid) }
        end

        def wanted?(uuid) = @context.about[:spec].nil? || @context.about[:spec].downcase.include?(uuid.downcase)
      end
    end
  end
end
