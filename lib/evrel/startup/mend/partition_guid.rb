# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # The identity that start-up files name, for the partition that is meant.
      class PartitionGuid
        include Mend

        # @return [Draft]
        # @raise [Refused] where the disk has no GPT, or another partition has that identity
        def draft
          guid = @context.about.fetch(:guid).downcase
          raise Refused.new('the disk has no GPT', where: 'sector 1') unless table.kind == 'gpt'
          raise Refused.new("another partition is #{guid}", where: 'GPT entries') if table.partitions.any? { |one| one.guid.casecmp?(guid) }

          part = @context.part
          was = part.guid
          part.guid = guid
          draft_of(table.pieces(disk.size), title: "Give partition #{part.number} its identity back", before: was, after: guid)
        end
      end
    end
  end
end
