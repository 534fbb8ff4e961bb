# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # GRUB's code and its core, as the image has them, to where they belong on
      # the disk.
      class Core
        include Mend

        # @return [Draft]
        # @raise [Refused] where the image has no core, or the disk no place for it
        # @raise [DoesNotFit]
        def draft
          place = CorePlace.new(@context.image!, disk, table)
          by = place.shift
          code = place.core.code(by) + disk.read(BiosPath::CODE, GrubCore::SECTOR - BiosPath::CODE)
          draft_of([[0, code], *place.core.pieces(by)], title: 'Write GRUB’s core', before: 'What lies in its place now',
                                                        after: "The core of the image, #{place.core.sectors} sectors")
        end
      end
    end
  end
end
