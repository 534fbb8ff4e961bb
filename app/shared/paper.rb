# frozen_string_literal: true

require 'prawn'

# A sheet to be printed, in the look of the pages.
class Paper
  INK = '1d2b2b'
  SOFT = '566260'
  RULE = 'd5ccb8'
  SPRUCE = '1f5c50'
  STATES = { 'ok' => SPRUCE, 'ask' => 'a86f00', 'no' => 'a3211d' }.freeze
  FONTS = { 'Text' => 'next', 'Mono' => 'mono' }.freeze

  # @return [Hash{String=>String}] name → path of the fonts that setup unpacks
  def self.fonts = FONTS.transform_values { |kind| File.join(Config::ROOT, 'var', 'cache', 'fonts', "#{kind}.ttf") }

  # @return [Prawn::Document]
  attr_reader :pdf

  # @param title [String]
  def initialize(title)
    @pdf = Prawn::Document.new(page_size: 'A4', margin: [40, 44], info: { Title: title, Creator: 'Evrel' })
    Paper.fonts.each { |name, path| @pdf.font_families.update(name => { normal: path }) if File.exist?(path) }
    @pdf.font(@pdf.font_families.key?('Text') ? 'Text' : 'Helvetica')
    @pdf.fill_color(INK)
  end

  # @return [String] the PDF
  def render = @pdf.render

  # One weight is enough of a font: a line around the letters makes them bold.
  def bold(size, text, color: INK)
    @pdf.fill_color(color)
    @pdf.stroke_color(color)
    @pdf.line_width(size / 40.0)
    @pdf.text_rendering_mode(:fill_stroke) { @pdf.text(clean(text), size:) }
    @pdf.fill_color(INK)
  end

  def plain(text, size: 9, color: INK)
    @pdf.fill_color(color)
    @pdf.text(clean(text), size:, leading: 1.5)
    @pdf.fill_color(INK)
  end

  # The fonts here are subsets: what they lack becomes a question mark, not an error.
  def clean(text) = text.to_s.encode('CP1252', invalid: :replace, undef: :replace, replace: '?').encode('UTF-8')

  def rule
    @pdf.move_down(5)
    @pdf.stroke_color(RULE)
    @pdf.line_width(0.6)
    @pdf.stroke_horizontal_rule
    @pdf.move_down(7)
  end

  # A line behind a shape for its state: colour does not speak alone, and paper may be grey.
  # @param state [String] of STATES
  # @param more [String, nil] in a softer colour, behind it
  # @param one_line [Boolean] whether what has no room in the line is left out
  def marked(state, text, more = nil, one_line: false)
    shape(state, @pdf.cursor - 5)
    said = [{ text: clean(text), size: 8.5 }, ({ text: "  #{clean(more)}", size: 8.5, color: SOFT } if more)].compact
    @pdf.indent(13) do
      next @pdf.formatted_text(said, leading: 1) unless one_line

      @pdf.formatted_text_box(said, at: [@pdf.bounds.left, @pdf.cursor], width: @pdf.bounds.width, height: 14, overflow: :truncate)
      @pdf.move_down(14)
    end
  end

  private

  def shape(state, middle)
    @pdf.fill_color(STATES.fetch(state))
    case state
    when 'ok' then @pdf.fill_circle([3.5, middle], 2.6)
    when 'ask' then @pdf.fill_polygon([3.5, middle + 3.4], [7, middle], [3.5, middle - 3.4], [0, middle])
    else @pdf.fill_rectangle([1, middle + 2.6], 5.2, 5.2)
    end
    @pdf.fill_color(INK)
  end
end
