# frozen_string_literal: true

# A run on paper and as a table: one line for each docket; and stickers for the
# drives.
class RunReport
  COLUMNS = %w[place docket computer location drive serial capacity_bytes port proof written_at verified name start_chain
               seen_to_start].freeze
  STICKER = [163, 68].freeze # points: three in a row
  ACROSS = 3

  # @param run [Run]
  def initialize(run)
    @run = run
  end

  # @return [String] CSV
  def csv
    SafeCsv.generate do |csv|
      csv << COLUMNS
      lines.each { |line| csv << line.values_at(*COLUMNS) }
    end
  end

  # @return [String] PDF
  def pdf
    paper = Paper.new(@run.number)
    paper.bold(20, "#{@run.number}  #{Words.count(lines.size, 'drive')} from one image")
    paper.plain(about, size: 10, color: Paper::SOFT)
    paper.rule
    lines.each { |line| paper.marked(mark(line), line['computer'], words(line)) }
    paper.rule
    paper.plain("#{@run.number} begun by #{@run.technician.short_name}, #{Words.time(@run.created_at)}; printed #{Words.time(Time.now)}",
                color: Paper::SOFT)
    paper.render
  end

  # @return [String] PDF: name, label and date for each drive that is written
  def stickers
    paper = Paper.new("Stickers of #{@run.number}")
    written = lines.select { |line| line['verified'] }
    paper.plain('None of its drives is written yet.') if written.empty?
    written.each_slice(ACROSS) do |row|
      paper.pdf.start_new_page if paper.pdf.cursor < STICKER.last
      top = paper.pdf.cursor
      row.each_with_index { |line, at| sticker(paper, line, at * (STICKER.first + 6), top) }
      paper.pdf.move_cursor_to(top - STICKER.last - 6)
    end
    paper.render
  end

  private

  def lines = @lines ||= dockets.map { |docket| line(docket) }
  def dockets = @run.dockets.includes(:computer, :trial_starts, :mends, :start_checks, seals: :technician, writes: :drive)

  def line(docket)
    write = docket.write
    seal = docket.seal('target')
    { 'place' => docket.run_place, 'docket' => docket.number, 'computer' => docket.computer.name, 'location' => docket.computer.place,
      'port' => seal&.decision&.fetch('port', nil), 'proof' => seal&.decision&.fetch('proof', nil), **drive(docket.target),
      **written(docket, write) }
  end

  def drive(drive)
    return {} unless drive

    { 'drive' => [drive.maker, drive.model].compact.join(' '), 'serial' => drive.serial, 'capacity_bytes' => drive.capacity }
  end

  def written(docket, write)
    return {} unless write

    { 'name' => name(docket, write), 'written_at' => write.finished_at&.iso8601, 'verified' => write.verified, 'state' => write.state,
      'error' => write.error,
      'start_chain' => docket.start_checks.select { |check| check.write_id == write.id }.max_by(&:id)&.state,
      'seen_to_start' => docket.trial_starts.any? { |trial| trial.write_id == write.id && trial.reached? } }
  end

  # @return [String, nil] that was given to its system
  def name(docket, write) = docket.mends.select { |mend| mend.write_id == write.id && mend.kind == 'own' && !mend.undone? }.last&.after

  def about
    image = @run.image
    "Image of #{image.computer&.name || 'an unknown computer'}, #{Words.time(image.taken_at)}, from #{image.shelf.name}. " \
      "#{Run::WAYS.fetch(@run.way)}; each with identities of its own. “#{@run.reason}”"
  end

  def mark(line)
    return 'ok' if line['verified']

    line['state'] == 'failed' ? 'no' : 'ask'
  end

  def words(line)
    return 'no drive yet' unless line['serial']
    return line['error'] || 'not written yet' unless line['verified']

    ["#{line['drive']}, #{line['serial']}", 'verified', ('seen to start' if line['seen_to_start'])].compact.join(' · ')
  end

  def sticker(paper, line, left, top)
    width, height = STICKER
    paper.pdf.bounding_box([left, top], width:, height:) do
      paper.pdf.stroke_bounds
      paper.pdf.bounding_box([8, height - 8], width: width - 16, height: height - 14) do
        paper.bold(15, line['computer'])
        paper.plain("…#{line['serial'].to_s[-4..]}  #{line['docket']}", size: 9)
        paper.plain("Written #{Time.iso8601(line['written_at']).localtime.strftime('%-d %B %Y')}", size: 8, color: Paper::SOFT)
      end
    end
  end
end
