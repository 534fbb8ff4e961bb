# frozen_string_literal: true

module Evrel
  module Layout
    # What somebody wants of a layout, as plain data that was checked; all sizes
    # are bytes. Read from JSON:
    #
    #   {"way": "as_in_image"}                          the default
    #   {"way": "grow", "part": 2}
    #   {"way": "spread", "by": "size"}                 or "used"
    #   {"way": "shrink"}
    #   {"way": "by_hand", "parts": {"2": {"start": 1048576, "size": 64900000000}}}
    #   {"way": "part", "part": 2, "over": 3}           a part restore, over a partition of the target,
    #   {"way": "part", "part": 2, "at": 1048576, "size": 1073741824}           or into its free room
    #
    # and, with each: "leave_out": [5], "free": bytes or "10%", "table":
    # "gpt"|"mbr", "identity": "renew", "rewrite": false, "align": "image",
    # "air": percent, "salt": text that makes new identities differ.
    class Wish
      WAYS = %w[as_in_image grow spread shrink by_hand part].freeze
      # No disk is larger than 64 bits can count, nor any wish.
      MOST = 1 << 63
      MOST_PARTS = 1024
      KNOWN = %w[way part by parts over at size number leave_out free table identity rewrite align air salt].freeze

      attr_reader :way, :part, :by, :parts, :over, :at, :size, :leave_out, :table, :align, :air, :salt, :number

      # @param wish [Hash] keys are text
      # @raise [Refused] with the field in +where+
      def initialize(wish = {})
        raise refused('the wish', 'is no object') unless wish.is_a?(Hash)

        @wish = wish.transform_keys(&:to_s)
        unknown = @wish.keys - KNOWN
        raise refused(unknown.first, 'is none of the known fields') if unknown.any?

        read_way
        read_places
        read_settings
      end

      # @param wish [Wish, Hash]
      def self.of(wish) = wish.is_a?(Wish) ? wish : new(wish || {})

      def renew? = @identity == 'renew'

      # @return [Boolean] whether files that refer to renewed identities are rewritten
      def rewrite? = @rewrite

      # @return [Boolean] whether one part alone is restored
      def part_restore? = way == 'part'

      # @param capacity [Integer] bytes of the target
      # @return [Integer] bytes that are to stay unallocated at its end
      def free_bytes(capacity) = @free.is_a?(Rational) ? (capacity * @free).ceil : @free

      # @return [Hash] as it came
      def to_h = @wish

      private

      def read_way
        @way = one_of('way', WAYS, 'as_in_image')
        @part = number_of('part') if %w[grow part].include?(way) || @wish.key?('part')
        raise refused('part', 'is missing') if part.nil? && part_restore?

        @by = one_of('by', %w[size used], 'size')
      end

      def read_places
        @parts = hash_of_parts(@wish['parts'] || {})
        @over = number_of('over')
        @number = number_of('number')
        @at = bytes_of('at', @wish['at'], 0)
        @size = bytes_of('size', @wish['size'], 1)
        raise refused('over', 'or a place ("at") is missing') if part_restore? && over.nil? && at.nil?
      end

      def read_settings
        @leave_out = list_of_numbers(@wish['leave_out'] || [])
        @free = free_of(@wish['free'])
        @table = one_of('table', %w[gpt mbr], nil)
        @identity = one_of('identity', %w[keep renew], 'keep')
        @align = one_of('align', %w[mib image], 'mib')
        @rewrite = @wish.fetch('rewrite', true) == true
        @air = percent(@wish.fetch('air', AIR_PERCENT))
        @salt = @wish['salt'].to_s[0, 100]
      end

      def one_of(field, known, default)
        value = @wish[field]
        return default if value.nil?
        raise refused(field, "is none of #{known.join(', ')}: #{short(value)}") unless known.include?(value)

        value
      end

      def number_of(field)
        value = @wish[field]
        return if value.nil?
        raise refused(field, "is no number of a partition: #{short(value)}") unless value.is_a?(Integer) && value.between?(1, MOST_PARTS)

        value
      end

      def list_of_numbers(list)
        fine = list.is_a?(Array) && list.size <= MOST_PARTS && list.all? { |one| one.is_a?(Integer) && one.between?(1, MOST_PARTS) }
        raise refused('leave_out', "is no list of partition numbers: #{short(list)}") unless fine

        list.uniq
      end

      def hash_of_parts(parts)
        raise refused('parts', "is no list of places: #{short(parts)}") unless parts.is_a?(Hash) && parts.size <= MOST_PARTS

        parts.to_h do |number, place|
          raise refused('parts', "has no partition #{short(number)}") unless number.to_s.match?(/\A[1-9]\d{0,3}\z/)
          raise refused("parts.#{number}", "is no place: #{short(place)}") unless place.is_a?(Hash)

          fields = place.transform_keys(&:to_s)
          [number.to_s.to_i, { start: bytes_of("parts.#{number}.start", fields['start'], 0),
                               size: bytes_of("parts.#{number}.size", fields['size'], 1) }.compact]
        end
      end

      def bytes_of(field, value, least)
        return if value.nil?
        raise refused(field, "is no number of bytes: #{short(value)}") unless value.is_a?(Integer)
        raise refused(field, "is #{value} bytes, which is less than #{least}") if value < least
        raise refused(field, "is #{value} bytes, more than any disk") if value > MOST

        value
      end

      def free_of(value)
        return 0 if value.nil?
        return Rational(Regexp.last_match(1)) / 100 if value.is_a?(String) && value.match(/\A(\d{1,2}(?:\.\d{1,3})?) ?%\z/)

        bytes_of('free', value, 0)
      end

      def percent(value)
        raise refused('air', "is no percentage from 0 to 100: #{short(value)}") unless value.is_a?(Integer) && value.between?(0, 100)

        value
      end

      def short(value) = value.inspect[0, 60]
      def refused(field, problem) = Refused.new("wish: #{field} #{problem}", where: field, hint: 'correct it; nothing was changed')
    end
  end
end
