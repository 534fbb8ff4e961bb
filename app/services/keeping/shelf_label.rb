# frozen_string_literal: true

# A label to be printed and stuck on the drive that a shelf is on: what it is,
# and that it is not to be erased.
class ShelfLabel
  WIDTH = 255 # points: 90 mm
  HEIGHT = 142

  # @param shelf [Shelf]
  def initialize(shelf)
    @shelf = shelf
  end

  # @return [String] a PDF
  def render
    paper = Paper.new("Label of #{@shelf.name}")
    paper.pdf.bounding_box([0, paper.pdf.cursor], width: WIDTH, height: HEIGHT) do
      paper.pdf.stroke_bounds
      paper.pdf.bounding_box([12, HEIGHT - 10], width: WIDTH - 24, height: HEIGHT - 20) { write(paper) }
    end
    paper.plain('Cut along the line, and stick it on the drive.', color: Paper::SOFT)
    paper.render
  end

  private

  def write(paper)
    paper.bold(19, @shelf.name)
    paper.plain('Holds saved images. Do not erase, do not lend.', size: 10)
    paper.pdf.move_down(6)
    lines.each { |line| paper.plain(line, size: 9.5) }
    paper.plain("Label printed #{Time.now.strftime('%-d %B %Y')}", size: 8, color: Paper::SOFT)
  end

  def lines
    drive = @shelf.drive
    images = @shelf.images.there
    newest = images.maximum(:taken_at)
    computers = images.where.not(computer_id: nil).distinct.count(:computer_id)
    ["#{drive.maker} #{drive.model}, #{Evrel::Units.bytes(drive.capacity)}", "Serial #{drive.serial}",
     "#{Words.count(images.count, 'image')} of #{Words.count(computers, 'computer')}",
     *("Newest of #{newest.strftime('%-d %B %Y')}" if newest)]
  end
end
