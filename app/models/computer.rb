# frozen_string_literal: true

# A computer that is known here: whose it is, how its firmware starts, and what
# the next colleague has to know.
class Computer < ActiveRecord::Base
  FIRMWARES = %w[uefi bios].freeze
  # What somebody writes down, in the order in which it is asked for, with the most characters of each.
  TEXTS = { 'name' => 60, 'place' => 120, 'owner' => 120, 'maker' => 120, 'model' => 120, 'serial' => 120, 'system_identity' => 120,
            'boot_menu' => 400, 'precious' => 2000, 'note' => 250 }.freeze

  # Days that its newest image may be old.
  WISHES = [1, 7, 30, 365].freeze

  has_many :dockets
  has_many :drives, class_name: 'Drive' # the inflector would look for a “drife”
  has_many :images
  has_many :proofs
  has_many :photos, class_name: 'ComputerPhoto', dependent: :destroy

  # Whether somebody else holds it against all others.
  attr_accessor :alone

  attribute :proof, :json
  # Fields of one's own: name → text.
  attribute :free, :json
  attribute :boot_entries, :json
  attribute :boot_order, :json

  TEXTS.each { |field, most| validates field, length: { maximum: most } }
  validates :name, presence: true
  validates :name, uniqueness: true, unless: :alone
  validates :system_identity, uniqueness: { message: 'is that of another computer' }, allow_nil: true, unless: :alone
  validate :free_fields
  validates :firmware, inclusion: { in: FIRMWARES, message: 'is uefi or bios' }, allow_nil: true
  validates :wish_days, inclusion: { in: WISHES, message: "is one of #{WISHES.join(', ')}" }
  normalizes(*TEXTS.keys, with: ->(text) { text.strip.presence })
  validates :keep_newest, inclusion: { in: 1..365, message: 'is a number from 1 to 365' }
  validates :keep_monthly, inclusion: { in: 0..120, message: 'is a number from 0 to 120' }
  scope :in_use, -> { where(retired_at: nil) }

  # @return [Hash] as Evrel::Startup wants it; without a kind, it is read off the disk
  def firmware_settings = { 'kind' => firmware, 'secure_boot' => secure_boot, 'loader' => nil }

  # Of one's own: at most so many, each with a name and a text of at most so many characters.
  OWN = { fields: 20, name: 40, text: 400 }.freeze

  # @return [String] in words
  def starts_by = firmware ? firmware.upcase : 'not known how it starts'

  private

  def free_fields
    errors.add(:base, "there are at most #{OWN[:fields]} fields of one's own") if free.to_h.size > OWN[:fields]
    free.to_h.each do |name, text|
      next if name.length.between?(1, OWN[:name]) && text.is_a?(String) && text.length <= OWN[:text]

      errors.add(:base, "#{name.truncate(OWN[:name]).inspect}: a field of one's own has a name of at most #{OWN[:name]} characters, " \
                        "and a text of at most #{OWN[:text]}")
    end
  end
end
