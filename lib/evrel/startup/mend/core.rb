# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # GRUB's code and its core, as the image has them, into the gap in front of
      # the first partition.
      class Core
        include Mend

        # @return [Draft]
        # @raise [Refused] where the image's core does not lie in such a gap, or the disk's is too small
        def draft
          image = @context.image!
          core = GrubCore.new(image)
          gap = table.partitions.map(&:start).min || disk.size
          raise Refused.new('the image has no core of GRUB in front of its first partition', where: 'image') unless
            GrubCore.boots?(image.read(0, 512)) && core.there? && core.listed? && core.before?(first_of(image))
          unless core.before?(gap)
            raise DoesNotFit.new('the gap in front of the first partition is too small for the core',
                                 where: 'sector 1')
          end

          pieces = [[core.first, 1], *core.runs].map { |sector, count| [sector * 512, image.read(sector * 512, count * 512)] }
          code = image.read(0, BiosPath::CODE) + disk.read(BiosPath::CODE, 512 - BiosPath::CODE)
          draft_of([[0, code], *pieces], title: 'Write GRUB’s core', before: 'What lies in the gap now',
                                         after: "The core of the image, #{core.sectors} sectors")
        end

        private

        def first_of(image) = Table.read(image)&.partitions.to_a.map(&:start).min || image.size
      end
    end
  end
end
