# frozen_string_literal: true

# A wish for a layout under a name, for a row of equal computers.
class LayoutPreset < ActiveRecord::Base
  belongs_to :technician
  attribute :wish, :json

  validates :name, presence: { message: 'is missing' }, length: { maximum: 60, message: 'is longer than 60 letters' },
                   uniqueness: { case_sensitive: false, message: 'is taken' }

  def view = { id:, name:, wish:, by: technician.short_name }
end
