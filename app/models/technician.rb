# frozen_string_literal: true

# Who works here, and what each may do: see docs/rights.md.
class Technician < ActiveRecord::Base
  # Each may do what those before it may.
  ROLES = %w[reader technician lead].freeze

  # Somebody new has none: a link that works once leads to the first.
  has_secure_password validations: false
  has_many :sign_ins, dependent: :delete_all
  attribute :preferences, :json

  validates :sign_in, presence: true, uniqueness: true, length: { maximum: 40 },
                      format: { with: /\A[a-z0-9][a-z0-9._-]*\z/, message: 'has small letters, digits, dots and dashes' }
  validates :name, presence: true, length: { maximum: 80 }
  validates :initials, presence: true, length: { maximum: 4 }
  validates :role, inclusion: { in: ROLES }
  scope :at_work, -> { where(disabled_at: nil) }

  # @param role [String] that something is for
  # @return [Boolean]
  def may?(role) = !disabled_at && ROLES.index(self.role) >= ROLES.index(role)

  def lead? = may?('lead')

  # "Ina Hauge" → "I. Hauge"
  def short_name = name.sub(/\A(\S)\S*\s+/, '\1. ')
end
