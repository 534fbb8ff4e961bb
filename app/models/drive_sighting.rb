# frozen_string_literal: true

# A stay of a drive in a port, as far as somebody looked.
class DriveSighting < ActiveRecord::Base
  belongs_to :drive
end
