# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # A store that names a partition that is not there names the one that holds
      # the system, by what it is called and where it lies now.
      class StoreDevice
        include Mend

        # @return [Draft]
        # @raise [Refused] where no store names a partition that is gone, or it cannot be changed in place
        def draft
          part = @context.part
          found = table.partitions.flat_map { |one| in_volume(one, part) }
          raise Refused.new('no store names a partition that is gone', where: 'store') if found.empty?

          draft_of(found.map { |at, one| [at, one.text] }, title: 'Point the store at the system’s partition', before: found.first.last.old,
                                                           after: "partition #{part.number}, at byte #{part.start}")
        end

        private

        def in_volume(one, part)
          devices = Layout::References.new(one.window(disk)).devices do |device|
            device.naming(part, table) if gone?(device)
          end
          stuck = devices.find { |device| device.offset.nil? }
          raise Refused.new('the store cannot be changed in place', where: stuck.path) if stuck

          devices.map { |device| [one.start + device.offset, device] }
        end

        # Others that are gone may mean other partitions.
        def gone?(device) = device.part(table).nil? && [nil, device.to_s].include?(@context.about[:device])
      end
    end
  end
end
