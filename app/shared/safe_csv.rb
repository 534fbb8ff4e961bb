# frozen_string_literal: true

require 'csv'

# Tables for other programs. A cell that begins like a formula would be worked
# out by them: an apostrophe in front makes it text, and is taken off again
# where a table comes back.
module SafeCsv
  FORMULA = /\A[=+\-@\t\r]/
  MADE_TEXT = /\A'(?=[=+\-@\t\r])/

  module_function

  # @yieldparam table [#<<] takes rows
  # @return [String]
  def generate
    CSV.generate { |csv| yield Rows.new(csv) }
  end

  # @param value [Object]
  def cell(value) = value.is_a?(String) && value.match?(FORMULA) ? "'#{value}" : value

  # @param text [String, nil] of a cell that came back
  def plain(text) = text&.sub(MADE_TEXT, '')

  # Makes each cell harmless on its way.
  class Rows
    def initialize(csv)
      @csv = csv
    end

    def <<(row)
      @csv << row.map { |value| SafeCsv.cell(value) }
      self
    end
  end
end
