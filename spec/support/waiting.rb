# frozen_string_literal: true

# Waiting for what happens by itself, with an end.
module Waiting
  PAUSE = 0.05 # seconds

  # @param seconds [Numeric] until when it is waited for
  # @yieldreturn [Object] true when it has come to that
  # @raise [RuntimeError]
  def eventually(seconds = 60)
    ending = Process.clock_gettime(Process::CLOCK_MONOTONIC) + seconds
    loop do
      found = yield
      return found if found
      raise "it did not come to that within #{seconds} s" if Process.clock_gettime(Process::CLOCK_MONOTONIC) > ending

      sleep PAUSE
    end
  end
end
