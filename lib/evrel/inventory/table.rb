# frozen_string_literal: true

require 'csv'

module Evrel
  module Inventory
    # A list of computers as a table in text: comma, semicolon or tab between the
    # fields, quotes around those that need them, with or without a byte order
    # mark, and the names of the columns in its first line.
    class Table
      LARGEST = 2 * MIB
      MOST = 5000 # rows
      MARK = "\uFEFF"
      SEPARATORS = [',', ';', "\t"].freeze

      # line: where it begins in the text, from 1; values: column → text.
      Row = Struct.new(:line, :values, keyword_init: true)

      # @return [Array<String>] names of its columns
      attr_reader :columns
      # @return [Array<Row>]
      attr_reader :rows

      # @param text [String]
      # @raise [Damaged] where it is too large, or cannot be read as a table; says in which line
      def initialize(text)
        raise Damaged.new("the table has more than #{LARGEST / MIB} MiB", hint: 'give it in pieces') if text.bytesize > LARGEST

        text = text.dup.force_encoding('UTF-8').delete_prefix(MARK)
        raise Damaged.new('the table is no text', hint: 'save it as CSV, in UTF-8') unless text.valid_encoding? && !text.include?("\0")

        read(text)
      end

      private

      # A row is known by the line in which it begins, whatever is in its quotes.
      def read(text)
        at = 0
        mark = separator(text)
        csv = CSV.new(text, col_sep: mark, strip: mark != "\t")
        @columns = csv.shift.to_a.map { |name| name.to_s.strip }
        check_columns
        @rows = []
        at = csv.line.lines.size
        while (fields = csv.shift)
          add(at + 1, fields) unless fields.all? { |field| field.to_s.empty? }
          at += csv.line.lines.size
        end
      rescue CSV::MalformedCSVError => e
        raise Damaged.new("line #{at + 1}: #{broken(e.message)}", where: "line #{at + 1}", hint: 'nothing was taken over')
      end

      # What stands most often in the first line.
      def separator(text) = SEPARATORS.max_by { |one| text.lines.first.to_s.count(one) }

      def check_columns
        raise Damaged.new('the table is empty', hint: 'its first line names the columns') if @columns.empty?

        twice = @columns.reject(&:empty?).map(&:downcase).tally.find { |_, count| count > 1 }
        raise Damaged.new("there are two columns called #{twice.first}", where: 'line 1') if twice
      end

      def add(line, fields)
        raise Damaged.new("the table has more than #{MOST} rows", where: "line #{line}", hint: 'give it in pieces') if @rows.size >= MOST
        if fields.size > @columns.size
          raise Damaged.new("line #{line} has more fields (#{fields.size}) than there are columns (#{@columns.size})",
                            where: "line #{line}", hint: 'put quotes around a field with a comma in it')
        end

        values = @columns.zip(fields).reject { |name, _| name.empty? }.to_h
        @rows << Row.new(line:, values: values.transform_values { |text| text.to_s.strip })
      end

      def broken(message)
        return 'a quote is not closed' if message.include?('Unclosed')

        'a quote stands where none may be'
      end
    end
  end
end
