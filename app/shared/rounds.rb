# frozen_string_literal: true

# What a process looks at again and again beside its work, as long as it lives.
module Rounds
  module_function

  # @param seconds [Numeric] between two rounds
  # @param now [Boolean] whether the first one is not waited for
  # @yield one round, with a connection of its own to the database
  # @return [Thread]
  def every(seconds, now: false, &round)
    Thread.new do
      told = nil
      sleep seconds unless now
      loop do
        told = once(told, &round)
        sleep seconds
      end
    end
  end

  # Whatever goes wrong in a round, the next one looks again.
  # @param told [String, nil] what was said last: it is not said each time
  # @return [String, nil]
  def once(told, &)
    ActiveRecord::Base.connection_pool.with_connection(&)
    nil
  rescue ActiveRecord::ActiveRecordError, Evrel::Error, SystemCallError
    nil # the database is away, a drive or a shelf is just being pulled, the disk is full
  rescue StandardError => e
    warn e.full_message(highlight: false) unless e.message == told
    e.message
  end
  private_class_method :once
end
