# frozen_string_literal: true

require 'forwardable'

# The report of a docket on paper: one page or two, in the look of the pages.
class ReportPdf
  extend Forwardable

  def_delegators :@paper, :bold, :plain, :clean, :rule

  ROLES = { 'startup' => 'c99a2e', 'reserved' => '8d8f7a', 'system' => '2f7566', 'data' => '4a6a94', 'recovery' => '7d5a86',
            'swap' => 'a77b5a' }.freeze
  FREE = 'ded6c4'
  CORE = 96 # points high
  COLUMN = 250

  # @param report [Hash] as DocketReport gives it, with text keys
  # @param picture [String, nil] path of a PNG
  def initialize(report, picture: nil)
    @report = report
    @picture = picture
  end

  # @return [String] the PDF
  def render
    @paper = Paper.new(title)
    @pdf = @paper.pdf
    head
    cores
    columns
    points
    foot
    @pdf.render
  end

  private

  def title = "#{@report.dig('docket', 'number')} #{@report.dig('computer', 'name')}"
  def fetch(*path) = @report.dig(*path)

  def local(text) = text ? Time.iso8601(text).localtime.strftime('%-d %b %Y %H:%M') : 'not yet'

  def head
    bold(20, "#{fetch('docket', 'number')}  #{fetch('computer', 'name')}")
    plain([fetch('computer', 'place'), fetch('computer', 'model'), fetch('computer', 'firmware').to_s.upcase.presence].compact.join(' · '),
          size: 10, color: Paper::SOFT)
    signed = fetch('stations').to_a.find { |station| station['name'] == 'start' }
    words = signed ? "Signed off by #{signed['by']}, #{local(signed['at'])}: #{signed['summary']}" : 'Not signed off'
    bold(11, words, color: signed ? Paper::SPRUCE : Paper::STATES['no'])
    opened = "opened by #{fetch('docket', 'opened_by')}, #{local(fetch('docket', 'opened_at'))}"
    plain("#{fetch('docket', 'cause')}; #{opened}. #{fetch('docket', 'note')}", color: Paper::SOFT)
    rule
  end

  # Three cores side by side, as on the Layout station.
  def cores
    return unless fetch('cores')

    top = @pdf.cursor
    [%w[image Image], %w[before Before], ['after', 'Restored disk']].each_with_index do |(key, name), index|
      @pdf.bounding_box([index * 172, top], width: 164, height: CORE + 26) { core(name, fetch('cores', key)) }
    end
    @pdf.move_cursor_to(top - CORE - 30)
    rule
  end

  def core(name, one)
    bold(9, name)
    plain(one['size_bytes'] ? Evrel::Units.bytes(one['size_bytes']) : 'of unknown size', size: 8, color: Paper::SOFT)
    parts = one['parts'].to_a
    return plain('nothing on it', size: 8, color: Paper::SOFT) if parts.empty?

    weights = parts.map { |part| [Math.log2([part['size_bytes'].to_f / (1024**2), 1].max), 2].max }
    y = @pdf.cursor - 2
    parts.zip(weights).each do |part, weight|
      height = (CORE - 8) * weight / weights.sum
      segment(part, y, height)
      y -= height
    end
  end

  def segment(part, top, height)
    @pdf.fill_color(ROLES.fetch(part['role'], FREE))
    @pdf.fill_rounded_rectangle([0, top], 26, height - 1, 3)
    @pdf.fill_color(Paper::INK)
    name = part['name'].to_s.empty? ? part['role'].to_s.capitalize : part['name']
    @pdf.draw_text(clean("#{name}  #{Evrel::Units.bytes(part['size_bytes'].to_i)}"), at: [33, top - (height / 2) - 2.5], size: 7.5)
  end

  def columns
    top = @pdf.cursor
    bottoms = [-> { left }, -> { right }].each_with_index.map do |side, index|
      @pdf.bounding_box([index * (COLUMN + 10), top], width: COLUMN - 4) { side.call }
      @pdf.cursor
    end
    @pdf.move_cursor_to(bottoms.min)
    rule
  end

  def left
    bold(11, 'What was done')
    fetch('stations').to_a.each do |station|
      line(station['name'].capitalize, "#{station['summary']} (#{station['by']}, #{local(station['at'])})")
    end
    image = fetch('image')
    if image
      line('Image',
           "taken #{local(image['taken_at'])}, on #{image['shelf']}, #{Evrel::Units.bytes(image['used_bytes'])}, #{image['state']}")
    end
    fetch('image', 'notes').to_a.each { |note| line('', note.upcase_first) }
    target = fetch('target')
    line('Drive', "#{target['maker']} #{target['model']}, #{target['serial']}, #{Evrel::Units.bytes(target['capacity'])}") if target
    written
  end

  def written
    write = fetch('write') or return
    said = write['expected'].to_h['low'] ? ", said #{Words.span(write['expected']['low'])} to #{Words.span(write['expected']['high'])}" : ''
    line('Time', "#{Words.span(write['seconds'])}#{said}") if write['seconds']
    line('Read back', write['verified'] ? "all matches, #{Evrel::Units.count(write['compared'].to_i)} clusters" : 'does not match')
    line('Digest', write.dig('summary', 'digest').to_s[0, 32]) if write.dig('summary', 'digest')
    not_as_planned(write)
    fetch('start', 'mends').to_a.each { |mend| line('Mended', "#{mend['title']} (#{mend['by']})") }
  end

  def not_as_planned(write)
    write.dig('summary', 'not_grown').to_h.each { |number, why| line('Not grown', "Partition #{number}: #{why}") }
    write['decisions'].to_a.each { |one| line('Decided', "#{one['title']} (#{one['by']})") }
  end

  def line(name, text)
    @pdf.formatted_text([{ text: "#{name}  ", color: Paper::SOFT, size: 8 }, { text: clean(text), size: 9 }], leading: 2)
  end

  def right
    bold(11, 'Proof that it starts')
    trial = fetch('start', 'trial')
    plain(trial ? trial['message'] : 'No trial start was made')
    plain("It gave: #{trial['answer']}", color: Paper::SOFT) if trial && trial['answer']
    @pdf.image(@picture, width: COLUMN - 4) if @picture && File.file?(@picture)
    @pdf.move_down(4)
    fetch('start', 'chain', 'steps').to_a.each { |step| @paper.marked(step['state'], step['title']) }
  end

  def points
    bold(11, 'Still to do')
    list = fetch('open_points').to_a
    return plain('Nothing') if list.empty?

    list.each { |point| plain("–  #{point}", size: 8.5) }
  end

  def foot
    events = fetch('events')
    @pdf.move_down(6)
    words = "#{events['count']} events, the chain is #{events['whole'] ? 'whole' : 'BROKEN'}, its end is #{events['head'].to_s[0, 24]}"
    plain("#{words}. Made by Evrel, #{local(fetch('docket', 'made_at'))}.", size: 7.5, color: Paper::SOFT)
    @pdf.number_pages('<page> / <total>', at: [@pdf.bounds.right - 60, -14], width: 60, align: :right, size: 8)
  end
end
