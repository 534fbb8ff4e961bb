# frozen_string_literal: true

# A file that was looked at on a shelf, image or not: it is looked at again only
# when its stamp changes.
class ShelfFile < ActiveRecord::Base
  belongs_to :shelf

  attribute :members, :json
end
