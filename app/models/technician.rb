# frozen_string_literal: true

# Who works here.
class Technician < ActiveRecord::Base
  has_secure_password

  validates :sign_in, :name, :initials, presence: true

  # "Ina Hauge" → "I. Hauge"
  def short_name = name.sub(/\A(\S)\S*\s+/, '\1. ')
end
