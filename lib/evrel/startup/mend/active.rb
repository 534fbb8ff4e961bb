# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # One partition is active, and no other.
      class Active
        include Mend

        # @return [Draft]
        # @raise [Refused] where the disk has no MBR, or the partition is a logical one
        def draft
          part = @context.part
          raise Refused.new('only a disk with an MBR has active partitions', where: 'sector 0') unless table.kind == 'mbr'
          raise Refused.new('a logical partition cannot be active', where: "partition #{part.number}") if part.number > 4

          sector = disk.read(0, 512)
          4.times { |index| sector.setbyte(Table::Mbr::ENTRIES + (index * 16), index + 1 == part.number ? Table::Mbr::ACTIVE : 0) }
          was = table.partitions.select(&:active?).map(&:number)
          draft_of(
            [[0, sector]],
            title: "Make partition #{part.number} active", before: was.empty? ? 'None is active' : "Active: #{was.join(', ')}",
            after: "Only partition #{part.number} is active"
          )
        end
      end
    end
  end
end
