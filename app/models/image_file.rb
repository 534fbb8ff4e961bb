# frozen_string_literal: true

# The name of a file inside an image.
class ImageFile < ActiveRecord::Base
  belongs_to :image
end
