# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # The code in a partition's first sectors, as the image has it. What the
      # volume says of itself there stays.
      class BootRecord
        include Mend

        # Bytes of the first sector that describe the volume: of FAT12/16, FAT32 and NTFS.
        DESCRIBED = { 'fat12' => 3...62, 'fat16' => 3...62, 'fat32' => 3...90, 'ntfs' => 3...84 }.freeze
        SECTORS = { 'ntfs' => 16 }.freeze # of code; one elsewhere

        # @return [Draft]
        # @raise [Refused] where the image has none either
        def draft
          part = @context.part
          from = Table.read(@context.image!)&.partitions&.find { |one| one.number == part.number } or
            raise Refused.new("the image has no partition #{part.number}", where: 'image')
          kind = @context.places.volume(part).kind
          bytes = from.window(@context.image!).read(0, 512 * SECTORS.fetch(kind, 1))
          raise Refused.new('the image has no boot record there either', where: 'image') if bytes.byteslice(0x5A, 300).delete("\0").empty?

          keep(bytes, part, kind)
          draft_of([[part.start, bytes]], title: "Write the boot record of partition #{part.number}", before: 'No code in its first sector',
                                          after: 'The code of the image; what it says of the volume stays')
        end

        private

        def keep(bytes, part, kind)
          range = DESCRIBED[kind] or return
          bytes[range] = disk.read(part.start, 512)[range]
        end
      end
    end
  end
end
