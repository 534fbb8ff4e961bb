# frozen_string_literal: true

# A computer that is known here, with how its firmware starts.
class Computer < ActiveRecord::Base
  has_many :dockets
  has_many :drives, class_name: 'Drive' # the inflector would look for a “drife”
  has_many :images

  attribute :proof, :json

  # @return [Hash] as Evrel::Startup wants it
  def firmware_settings = { 'kind' => firmware, 'secure_boot' => secure_boot, 'loader' => nil }
end
