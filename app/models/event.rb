# frozen_string_literal: true

# What happened: who, when, what. Only ever added; the database refuses
# changes too.
class Event < ActiveRecord::Base
  belongs_to :docket, optional: true
  belongs_to :technician, optional: true

  attribute :data, :json

  def readonly? = persisted?

  # @param kind [String] for programs
  # @param text [String] for people; never a passphrase
  def self.add(kind, text, docket: nil, technician: nil, data: nil)
    create!(kind:, text: text.truncate(2000), docket:, technician:, data:)
  end
end
