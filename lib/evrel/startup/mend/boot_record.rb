# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # The code in a partition's first sectors, as the image has it. What the
      # volume says of itself there stays.
      class BootRecord
        include Mend

        # @return [Draft]
        # @raise [Refused] where the image has none either
        def draft
          part = @context.part
          from = Table.read(@context.image!)&.partitions&.find { |one| one.number == part.number } or
            raise Refused.new("the image has no partition #{part.number}", where: 'image')
          described, sectors = @context.places.volume(part).boot_record
          bytes = from.window(@context.image!).read(0, 512 * sectors)
          raise Refused.new('the image has no boot record there either', where: 'image') if bytes.byteslice(0x5A, 300).delete("\0").empty?

          bytes[described] = disk.read(part.start, 512)[described] if described
          draft_of([[part.start, bytes]], title: "Write the boot record of partition #{part.number}", before: 'No code in its first sector',
                                          after: 'The code of the image; what it says of the volume stays')
        end
      end
    end
  end
end
