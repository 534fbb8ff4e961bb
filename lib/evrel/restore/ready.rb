# frozen_string_literal: true

module Evrel
  module Restore
    # What must hold before a write may begin or go on.
    class Ready
      # @param image [Image::Native, Image::Foreign]
      # @param target [Disk]
      # @param plan [Layout::Plan]
      # @param scratch [Scratch, nil]
      # @param accept_unread [Boolean]
      def initialize(image, target, plan, scratch, accept_unread:)
        @image = image
        @target = target
        @plan = plan
        @scratch = scratch
        @accept_unread = accept_unread
      end

      # @raise [Refused, DoesNotFit, Unsupported]
      def check
        @plan.valid!
        check_size
        check_unread
        check_resizing
      end

      private

      def check_size
        return if @plan.target_size == @target.size

        raise DoesNotFit.new("the plan is for #{@plan.target_size} bytes, the target has #{@target.size}", where: 'target')
      end

      def check_unread
        return if @accept_unread || @image.manifest.unread.empty?

        raise Refused.new("#{Units.count(@image.manifest.unread_sectors)} sectors of the image were not read when it was taken",
                          where: "byte #{@image.manifest.unread.first.first} of the image", hint: 'choose another image, or accept that')
      end

      def check_resizing
        raise Refused.new('the plan resizes parts, and there is no scratch room', where: 'scratch room') if
          @scratch.nil? && @plan.pieces.any?(&:prepared?)

        @scratch&.check_room(@plan)
      end
    end
  end
end
