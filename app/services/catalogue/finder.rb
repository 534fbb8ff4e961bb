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

    dockets + drives + images + files
  end

  private

  def dockets
    DocketList.with_words(Docket.includes(:computer), @words.join(' ')).order(id: :desc).limit(MOST).map do |docket|
      { kind: 'docket', title: "#{docket.number} · #{docket.computer.name}", detail: "#{docket.cause_name}, #{docket.computer.place}",
        path: "/dockets/#{docket.id}" }
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
    found = Words.likes(@words.join(' ')).reduce(Drive.order(:id)) { |scope, like| scope.where("#{DRIVE} LIKE ?", like) }
    found.limit(MOST).map do |drive|
      { kind: 'drive', title: "#{drive.maker} #{drive.model}, #{Evrel::Units.bytes(drive.capacity)}",
        detail: "Last seen on port #{drive.last_port}", path: '/bench' }
    end
  end

  # Maker, model and capacity, as they are shown.
  DRIVE = "LOWER(CONCAT_WS(' ', maker, model, CONCAT(ROUND(capacity / 1e9), ' gb'), CONCAT(ROUND(capacity / 1e12, 1), ' tb')))"
  private_constant :DRIVE
end
