# frozen_string_literal: true

# Which images hold a file of this name, and how old is it in each?
class FileSearch
  MOST = 2000 # rows that are looked at

  # @param text [String] a name, or its beginning; a "*" stands for anything
  def initialize(text)
    @text = text.strip
  end

  # @return [Array<Hash>] name and path, and images (the newest first) with part, size and time of the file in each
  def groups
    return [] if @text.length < 2

    rows.group_by { |row| [row.name.downcase, row.part, row.path.downcase] }.map do |_, same|
      { name: same.first.name, path: same.first.path, part: same.first.part,
        images: same.sort_by { |row| -row.image.taken_at.to_f }.map { |row| in_image(row) } }
    end.sort_by { |group| [group[:name].casecmp?(@text) ? 0 : 1, -group[:images].size, group[:path]] }
  end

  # Where no file can be found, whatever it is called.
  # @return [Hash] unchecked: how many images were never checked; parts: image_id, computer, taken_at and part of each part of a
  #   checked one that was not looked through, with its kind, or the problem on the way
  def self.unsearched
    indexed = Image.there.where('indexed_at IS NOT NULL AND JSON_LENGTH(unsearched) > 0').order(taken_at: :desc)
    gaps = indexed.select(:id, :computer_id, :host, :taken_at, :unsearched).includes(:computer).flat_map do |image|
      image.unsearched.map do |one|
        { image_id: image.id, computer: image.computer&.name || image.host, taken_at: image.taken_at.iso8601, **one.symbolize_keys }
      end
    end
    { unchecked: Image.there.where(indexed_at: nil).count, parts: gaps }
  end

  private

  # By the index on names first; in the middle of names only where nothing begins so.
  def rows
    found = matching("#{pattern}%").to_a
    found.any? || @text.include?('*') ? found : matching("%#{pattern}%").to_a
  end

  def matching(like)
    ImageFile.joins(:image).merge(Image.there).where('image_files.name LIKE ?', like).includes(image: %i[computer shelf]).limit(MOST)
  end

  def pattern = ImageFile.sanitize_sql_like(@text).tr('*', '%')

  def in_image(row)
    image = row.image
    { image_id: image.id, computer: image.computer&.name || image.host, taken_at: image.taken_at.iso8601, state: image.state,
      shelf: image.shelf.name, size: row.size, modified_at: row.modified_at&.iso8601 }
  end
end
