# frozen_string_literal: true

require 'csv'

# Readiness for other programs, and on one page for whoever asks.
class ReadinessPaper
  COLUMNS = %w[computer place owner readiness because image_taken_at image_shelf checked_at seen_to_start_at wish_days].freeze
  # Lines that one page has room for.
  LINES = 44
  STATES = { ready: %w[ok ready], not_proved: ['ask', 'not proved'], not_possible: ['no', 'not possible'] }.freeze

  # @param list [ReadinessList]
  def initialize(list)
    @list = list
  end

  # @return [String] of all computers, the worst first
  def csv
    SafeCsv.generate do |csv|
      csv << COLUMNS
      @list.rows.each do |row|
        csv << [row.computer.name, row.computer.place, row.computer.owner, STATES.fetch(row.verdict.state).last, row.verdict.because,
                *proof(row.verdict.copy), row.computer.wish_days]
      end
    end
  end

  # @return [String] one page
  def pdf
    paper = Paper.new('Readiness')
    paper.bold(20, 'Could it be restored today?')
    paper.bold(11, "#{@list.words}.")
    paper.plain("#{Time.now.strftime('%-d %b %Y %H:%M')}, by #{Config.bench}. Ready: its newest image is as new as was wished, was read " \
                'through and found whole, and was seen to start in the emulator.', color: Paper::SOFT)
    paper.rule
    shown = @list.rows.first(LINES)
    shown.each { |row| line(paper, row) }
    left = @list.rows.size - shown.size
    paper.plain("and #{Words.count(left, 'computer')} more, none worse than these", color: Paper::SOFT) if left.positive?
    paper.render
  end

  private

  # @param copy [Evrel::Readiness::Copy, nil]
  def proof(copy)
    return [nil] * 4 unless copy

    [time(copy.taken_at), copy.shelf, time(copy.checked_at), (time(copy.started_at) if copy.start == :reached)]
  end

  def time(value) = value&.utc&.iso8601

  def line(paper, row)
    mark, word = STATES.fetch(row.verdict.state)
    paper.marked(mark, "#{row.computer.name}: #{word}", row.verdict.because, one_line: true)
  end
end
