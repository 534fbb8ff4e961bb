# frozen_string_literal: true

# Finds computers, dockets, images and drives by a piece of text.
class Finder
  # @param text [String]
  def initialize(text)
    @words = text.strip.downcase.split
  end

  # @return [Array<Hash>] kind, title, detail, path of the page
  def results
    return [] if @words.empty?

    (dockets + images + drives).select { |row| match?(row) }.map { |row| row.except(:text) }
  end

  private

  def match?(row) = @words.all? { |word| row[:text].downcase.include?(word) }

  def dockets
    Docket.includes(:computer).order(id: :desc).map do |docket|
      title = "#{docket.number} · #{docket.computer.name}"
      { kind: 'docket', title:, detail: "#{docket.cause_name}, #{docket.computer.place}", path: "/dockets/#{docket.id}",
        text: "#{title} #{docket.computer.place} #{docket.cause_name} #{docket.note}" }
    end
  end

  def images
    Image.includes(:computer, :shelf).order(taken_at: :desc).map do |image|
      title = "#{image.computer&.name || 'Unknown computer'}, #{Words.time(image.taken_at)}"
      { kind: 'image', title:, detail: "Shelf #{image.shelf.name}", path: "/images?show=#{image.id}",
        text: "#{title} #{image.shelf.name} #{image.document.note} #{image.folder}" }
    end
  end

  # By maker and model, not by serial: what is proved from a label is not looked up here.
  def drives
    Drive.order(:id).map do |drive|
      title = "#{drive.maker} #{drive.model}, #{Evrel::Units.bytes(drive.capacity)}"
      { kind: 'drive', title:, detail: "Last seen on port #{drive.last_port}", path: '/bench', text: title }
    end
  end
end
