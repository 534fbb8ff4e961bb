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

      # A part as small as this beside the one that holds the system is for starting it.
      SMALL = 4

      # What is worth growing: what holds the system, by its type, or else by its size. Where that cannot be, another one
      # of a good size.
      # @return [Part, nil]
      def to_grow(parts)
        holder = largest(parts.select { |part| part.role == :system }) || largest(parts.reject(&:small_fixed?)) or return
        return holder if holder.growable? || holder.grown_inside?

        largest(parts.select { |part| part.growable? && part.size > holder.size / SMALL })
      end

      def largest(parts) = parts.max_by { |part| [part.size, -part.number] }

      def larger(source, plain, room)
        part = to_grow(source.parts)
        return [plain, "#{Units.bytes(room)} more than the image needs, but none of its parts can grow"] unless part

        words = "#{Units.bytes(room)} more than the image needs: #{part.word} takes it"
        words += ". #{Inside.words(part.kind)}" if part.grown_inside?
        [{ 'way' => 'grow', 'part' => part.number }, words]
      end

      def smaller(source, target, plain)
        wish = { 'way' => 'shrink' }
        plan = Planner.new(source, target, wish).plan
        return [wish, 'Another sector size, or no room where the parts were: they move'] if plan.valid? && plan.parts.none?(&:resized?)
        return [wish, "#{Units.list(plan.parts.select(&:resized?).map { |one| one.part.word })} shrinks to what has room"] if plan.valid?

        [source.parts.any?(&:growable?) ? wish : plain, 'It does not fit']
      end
      private_class_method :larger, :smaller, :largest
    end
  end
end
