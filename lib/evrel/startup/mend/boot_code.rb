# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # The code in the first sector, as the image has it; the table in that
      # sector stays.
      class BootCode
        include Mend

        # @return [Draft]
        # @raise [Refused] where the image has none either
        def draft
          code = code_of_image
          raise Refused.new('the image has no code in its first sector either', where: 'image, sector 0') if code.delete("\0").empty?

          sector = disk.read(0, 512)
          draft_of(
            [[0, code + sector.byteslice(BiosPath::CODE..)]],
            title: 'Write the code of the first sector', before: 'The code that is there now, or none',
            after: 'The code of the image, 440 bytes'
          )
        end

        private

        # What GRUB has there names the sector in which its core begins: on this disk that may be another.
        def code_of_image
          image = @context.image!
          return image.read(0, BiosPath::CODE) unless GrubCore.boots?(image.read(0, GrubCore::SECTOR))

          place = CorePlace.new(image, disk, table)
          place.core.code(place.shift)
        end
      end
    end
  end
end
