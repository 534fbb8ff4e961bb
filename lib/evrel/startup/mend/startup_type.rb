# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # The type of a start-up part in the table.
      class StartupType
        include Mend

        # @return [Draft]
        # @raise [Refused] where the disk has no GPT
        def draft
          raise Refused.new('the disk has no GPT', where: 'sector 1') unless table.kind == 'gpt'

          part = @context.part
          was = part.type_name
          part.type = UefiPath::ESP
          draft_of(table.pieces(disk.size), title: "Give partition #{part.number} the type “EFI system”", before: was, after: 'EFI system')
        end
      end
    end
  end
end
