# frozen_string_literal: true

# Finds computers, dockets, images and drives by a piece of text.
class Finder
  MOST = 8 # of a kind

  # @param text [String]
  def initialize(text)
    @words = text.strip.downcase.split
  end

  # @return [Array<Hash>] kind, title, detail, path of the page
  def results
    return [] if @words.empty?

    (dockets + drives).select { |row| match?(row) }.map { |row| row.except(:text) } + images + files
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
    Catalogue.new('q' => @words.join(' ')).page[:images].first(MOST).map do |row|
      title = "#{row[:computer] || 'Unknown computer'}, #{Words.time(Time.iso8601(row[:taken_at]))}"
      { kind: 'image', title:, detail: "Shelf #{row[:shelf]}", path: "/images?show=#{row[:id]}" }
    end
  end

  # Names inside of images; only where one word was typed, as a name is one.
  def files
    return [] unless @words.size == 1 && @words.first.length >= 3

    FileSearch.new(@words.first).groups.first(MOST).map do |group|
      count = group[:images].size
      whose = group[:images].first[:computer] || 'an unknown computer'
      { kind: 'file', title: group[:name], detail: "In #{count} image#{'s' if count > 1}, the newest of #{whose}",
        path: "/images?file=#{ERB::Util.url_encode(group[:name])}" }
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
