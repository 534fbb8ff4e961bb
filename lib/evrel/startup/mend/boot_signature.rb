# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # The mark at the end of the first sector.
      class BootSignature
        include Mend

        # @return [Draft]
        def draft
          sector = disk.read(0, 512)
          there = sector.byteslice(510, 2).unpack1('H*').upcase
          draft_of(
            [[0, sector.byteslice(0, 510) + BiosPath::ENDING]],
            title: 'Mark the first sector as one to start from', before: "It ends in #{there}", after: 'It ends in 55AA'
          )
        end
      end
    end
  end
end
