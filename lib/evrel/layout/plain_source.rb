# frozen_string_literal: true

require 'base64'

module Evrel
  module Layout
    # A Source as JSON can say it, and back: what was read of an image in a
    # process of its own is planned with in another one. The table comes as the
    # bytes that were written of it anew, not as those that were read.
    module PlainSource
      PLAIN = %i[number name type guid attributes start size volume logical].freeze
      FIELDS = %i[kind sector size outside absent].freeze

      module_function

      # @param source [Source]
      # @return [Hash]
      def told(source)
        table = source.table&.pieces(source.size).to_a.map { |offset, bytes| [offset, Base64.strict_encode64(bytes)] }
        FIELDS.to_h { |name| [name, source[name]] }.merge(parts: source.parts.map { |part| part_told(part) }, table:)
      end

      # @param told [Hash] as `told` made it, through JSON
      # @return [Source]
      # @raise [Damaged] where its table is none
      def source(told)
        fields = FIELDS.to_h { |name| [name, told.fetch(name.to_s)] }
        Source.new(**fields, table: table(told), parts: told['parts'].map { |part| part(part) })
      end

      def part_told(part)
        limits = part.limits.to_h.merge(resizer: part.limits.resizer.to_s.split('::').last)
        PLAIN.to_h { |name| [name, part[name]] }.merge(role: part.role, limits:)
      end

      def part(told)
        limits = told['limits'].transform_keys(&:to_sym)
        limits[:resizer] &&= Volume.resizer(limits[:resizer])
        Part.new(**PLAIN.to_h { |name| [name, told[name.to_s]] }, role: told['role'].to_sym, limits: Volume::Limits.new(**limits))
      end

      def table(told)
        return if told['table'].empty?

        pieces = told['table'].map { |offset, bytes| [offset, Base64.strict_decode64(bytes)] }
        Table.read(Disk::Scraps.new(pieces, size: told['size'], logical_sector: told['sector'])) or
          raise Damaged.new('the table cannot be read again', where: 'table')
      end
      private_class_method :part_told, :part, :table
    end
  end
end
