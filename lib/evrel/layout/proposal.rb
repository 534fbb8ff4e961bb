# frozen_string_literal: true

module Evrel
  module Layout
    # The sensible wish for an image and a target, with its reason.
    module Proposal
      # Less than this is not worth a change.
      WORTH = 64 * MIB

      module_function

      # @param source [Source]
      # @param target [Target]
      # @return [Array<(Hash, String)>] the wish, and why
      def for(source, target)
        plain = { 'way' => 'as_in_image' }
        return [plain, 'The image has no partition table: it is written as it is'] unless source.kind

        plan = Planner.new(source, target, plain).plan
        room = plan.free_at_end
        return [plain, 'The disk is as large as the image’s'] if plan.valid? && room < WORTH

        plan.valid? ? larger(source, plain, room) : smaller(source, target, plain)
      end

      # @return [Part, nil] what is worth growing: the system, or else the largest data part
      def to_grow(parts)
        able = parts.select(&:growable?)
        able.select { |part| part.role == :system }.max_by { |part| [part.size, -part.number] } || able.max_by do |part|
          [part.size, -part.number]
        end
      end

      def larger(source, plain, room)
        part = to_grow(source.parts)
        return [plain, "#{Units.bytes(room)} more than the image needs, but none of its parts can grow"] unless part

        [{ 'way' => 'grow', 'part' => part.number }, "#{Units.bytes(room)} more than the image needs: #{part.word} takes it"]
      end

      def smaller(source, target, plain)
        wish = { 'way' => 'shrink' }
        plan = Planner.new(source, target, wish).plan
        return [wish, 'Another sector size, or no room where the parts were: they move'] if plan.valid? && plan.parts.none?(&:resized?)
        return [wish, "#{Units.list(plan.parts.select(&:resized?).map { |one| one.part.word })} shrinks to what has room"] if plan.valid?

        [source.parts.any?(&:growable?) ? wish : plain, 'It does not fit']
      end
      private_class_method :larger, :smaller
    end
  end
end
