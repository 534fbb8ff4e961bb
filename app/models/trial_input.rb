# frozen_string_literal: true

# What somebody types into a running trial start: {"text": …} for its serial
# line, or {"keys": [names]} for its keyboard. Gone once the worker has typed it.
class TrialInput < ActiveRecord::Base
  belongs_to :trial_start

  attribute :typed, :json
end
