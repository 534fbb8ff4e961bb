# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # Where a FAT or NTFS volume says that it lies, in its boot sector and the
      # copy of that.
      class HiddenSectors
        include Mend

        # @return [Draft]
        # @raise [Refused] where the volume does not say it
        def draft
          part = @context.part
          volume = @context.places.volume(part)
          there = disk.read(part.start + BiosPath::HIDDEN_SECTORS, 4).unpack1('V')
          pieces = copies(volume).map { |at| [part.start + at, with_place(disk.read(part.start + at, 512), part)] }
          draft_of(pieces, title: "Tell the boot record where partition #{part.number} lies", before: "#{there} sectors before it",
                           after: "#{part.first_lba} sectors before it")
        end

        private

        def copies(volume)
          return volume.boot_copies if volume.boot_copies.any?

          raise Refused.new("a #{volume.kind} volume does not say where it lies", where: "partition #{@context.part.number}")
        end

        def with_place(sector, part)
          sector[BiosPath::HIDDEN_SECTORS, 4] = [part.first_lba].pack('V')
          sector
        end
      end
    end
  end
end
