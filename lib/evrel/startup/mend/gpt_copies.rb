# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # Both copies of a GPT, anew from the one that is good, the backup where it
      # belongs.
      class GptCopies
        include Mend

        # @return [Draft]
        # @raise [Refused] where the disk has no GPT
        def draft
          raise Refused.new('the disk has no GPT', where: 'sector 1') unless table.kind == 'gpt'

          draft_of(
            table.for_disk(disk.size).pieces(disk.size),
            title: 'Write both copies of the GPT anew', before: table.findings.join('; '),
            after: "Both say what the #{table.source} copy says"
          )
        end
      end
    end
  end
end
