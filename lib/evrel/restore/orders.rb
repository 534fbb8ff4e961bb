# frozen_string_literal: true

module Evrel
  module Restore
    # The exact list of operations that a write will do: what is resized in the
    # scratch room is made before anything is erased, the old table goes first,
    # the new one comes last.
    class Orders
      # @param image [Image::Native, Image::Foreign]
      # @param plan [Layout::Plan]
      # @param options [WriteOptions]
      # @return [Array<Order>]
      def self.for(image, plan, options: WriteOptions.new) = new(image, plan, options).list

      # @return [String] id of an order for the piece at +index+
      def self.id(kind, index) = "#{kind}-#{index + 1}"

      def initialize(image, plan, options)
        @image = image
        @plan = plan
        @options = options
      end

      def list
        writes = each_piece { |piece, index| part(piece, index) }
        [check, *each_piece { |piece, index| prepare(piece, index) if piece.prepared? }, clear, *writes,
         (compare(writes.sum(&:bytes)) if @options.read_back), (table if @plan.table)].compact
      end

      private

      def each_piece(&) = @plan.pieces.each_with_index.map(&).compact

      def check
        Order.new(id: 'check', kind: :check, title: 'Check the target again',
                  detail: 'same drive, same contents as when it was sealed')
      end

      def prepare(piece, index)
        place = @plan.place_of(piece.number)
        return grow(piece, index) if piece.grown?

        verb = { scratch: place.size < place.part.size ? 'Shrink' : 'Grow', remake: 'Make', swap: 'Make' }.fetch(piece.how)
        Order.new(id: Orders.id('prepare', index), kind: :prepare, part: piece.number, piece: index,
                  bytes: bytes(place.part.start, place.part.size),
                  title: verb == 'Make' ? "Make #{piece.name} anew" : "#{verb} #{piece.name} to #{Units.bytes(place.size)}",
                  detail: 'in the scratch room, before anything is erased')
      end

      def clear
        unless @plan.part_restore?
          return Order.new(id: 'clear', kind: :clear, title: 'Clear the old partition table',
                           detail: "both copies; #{unused}")
        end

        Order.new(id: 'clear', kind: :clear, title: 'Take the part out of the table',
                  detail: "all others stay in it; #{unused}")
      end

      def unused
        what = @options.skip_identical ? 'unused room' : 'all the rest'
        what = @options.skip_identical ? 'its unused room' : 'what was in its place' if @plan.part_restore?
        { 'discard' => "then #{what} is discarded", 'zero' => "then #{what} is zeroed", 'leave' => 'unused room stays as it is' }
          .fetch(@options.unused)
      end

      def part(piece, index)
        return changes(piece, index) if piece.grown?

        # Of a part that is made anew no more is known before than that it holds as much.
        from = piece.prepared? ? @plan.place_of(piece.number).part.start : piece.image_start
        size = piece.prepared? ? @plan.place_of(piece.number).part.size : piece.size
        Order.new(id: Orders.id('part', index), kind: :part, piece: index, title: "Write #{piece.name}",
                  detail: how,
                  bytes: bytes(from, size), part: piece.number)
      end

      # Of a drive as it is no digest is known before.
      def how
        return 'only what differs from what is there' if @options.skip_identical

        @image.format == Image::Live::FORMAT ? 'the digest of every cluster is kept' : 'every cluster is checked first'
      end

      def bytes(from, size)
        @image.digests.count_between(from / Image::CLUSTER, ((from + size - 1) / Image::CLUSTER) + 1) * Image::CLUSTER
      end

      def compare(total)
        Order.new(id: 'read-back', kind: :read_back, title: 'Read everything back and compare',
                  detail: "from the disk itself#{'; the source is read a second time too' if @options.read_twice}", bytes: total)
      end

      def grow(piece, index)
        Order.new(id: Orders.id('prepare', index), kind: :prepare, part: piece.number, piece: index,
                  title: "Grow #{piece.name} to #{Units.bytes(piece.room)}",
                  detail: 'in the scratch room, before all else')
      end

      # How much that is comes to be known by growing it; it is little.
      def changes(piece, index)
        Order.new(id: Orders.id('part', index), kind: :part, piece: index, title: "Write what growing changed of #{piece.name}",
                  detail: 'over what was written of it', bytes: 0, part: piece.number)
      end

      def table
        Order.new(id: 'table', kind: :table, title: 'Write the partition table',
                  detail: "last of all; #{@plan.table.partitions.size} parts, read back at once")
      end
    end
  end
end
