# frozen_string_literal: true

# A saved disk on a shelf. state: unchecked, checking, whole or damaged.
class Image < ActiveRecord::Base
  belongs_to :shelf
  belongs_to :computer, optional: true
  has_many :trial_starts

  attribute :manifest, :json
  attribute :check_result, :json

  def path = File.join(shelf.path, folder)

  # @yieldparam image [Evrel::Image::Native] closed afterwards
  def open_image
    opened = Evrel::Image.open(path)
    yield opened
  ensure
    opened&.close
  end

  # @return [Evrel::Image::Manifest]
  def document = @document ||= Evrel::Image::Manifest.new(manifest)

  def whole? = state == 'whole'
  def damaged? = state == 'damaged'

  # @return [Integer] bytes that a target must have: up to the end of the last
  #   part, and the backup table behind it
  def needs
    return document.size unless document.table?

    last = document.partitions.map { |part| part['start_bytes'] + part['size_bytes'] }.max || 0
    last + (33 * document.logical_sector)
  end
end
