# frozen_string_literal: true

module Evrel
  # What is done to a drive that is not being restored to: cleaning it, and
  # finding out whether it is as large as it says.
  module Upkeep
  end
end
