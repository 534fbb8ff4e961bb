# frozen_string_literal: true

require 'csv'

module Evrel
  module Own
    # Which of a row gets what: CSV with a line of column names. `target` says
    # which (its path, the end of its label, or its number in the row), `name` is
    # the name of the computer; all others are for templates.
    class Names
      LARGEST = MIB
      MOST = 1000 # lines
      COLUMN = /\A[a-z]\w{0,39}\z/

      # @param text [String]
      # @return [Names]
      # @raise [Refused]
      def self.parse(text)
        raise Refused.new('the table is too large', where: 'table') if text.bytesize > LARGEST

        rows = CSV.parse(text.dup.force_encoding('UTF-8').scrub, headers: true, header_converters: ->(name) { name.to_s.strip.downcase })
        new(rows.headers.compact, rows.map { |row| row.to_h.transform_values { |value| value.to_s.strip } })
      rescue CSV::MalformedCSVError => e
        raise Refused.new("this is no CSV: #{e.message}", where: 'table')
      end

      # @return [Array<String>]
      attr_reader :columns

      # @param columns [Array<String>]
      # @param rows [Array<Hash{String=>String}>]
      def initialize(columns, rows)
        @columns = columns
        @rows = rows.reject { |row| row.values.all?(&:empty?) }
        sound!
      end

      # @param keys [Array<String, Integer>] what the target may be called
      # @return [Hash{String=>String}, nil] its values
      def of(*keys)
        wanted = keys.compact.map { |key| key.to_s.downcase }
        @rows.find { |row| wanted.include?(row['target'].to_s.downcase) }&.except('target')
      end

      # @return [Hash{String=>String}, nil] of the line with this name
      def named(name) = @rows.find { |row| row['name'].to_s.casecmp?(name) }&.except('target')

      # @return [Array<Hash>]
      def to_a = @rows

      private

      def sound!
        raise Refused.new('the table has no column “name”', where: 'table') unless columns.include?('name')

        wrong = columns.find { |name| !name.match?(COLUMN) }
        raise Refused.new("“#{wrong}” is no name of a column: letters, digits and _ are", where: 'table') if wrong
        raise Refused.new("the table has more than #{MOST} lines", where: 'table') if @rows.size > MOST

        %w[target name].each { |column| once!(column) }
      end

      def once!(column)
        seen = @rows.map { |row| row[column].to_s.downcase }.reject(&:empty?)
        twice = seen.find { |value| seen.count(value) > 1 } or return
        raise Refused.new("“#{twice}” stands twice in the column “#{column}”", where: 'table')
      end
    end
  end
end
