# frozen_string_literal: true

# The start-up chain as it was read off a written disk.
class StartCheck < ActiveRecord::Base
  belongs_to :docket
  belongs_to :write

  attribute :steps, :json
end
