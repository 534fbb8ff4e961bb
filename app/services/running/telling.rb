# frozen_string_literal: true

# What a job tells of its work: not more often than every so many seconds, and
# each time it is asked whether somebody wants it to end.
class Telling
  # @param row [ActiveRecord::Base] the work
  # @param every [Numeric] seconds between two
  # @param asks [Array<Symbol>] columns of the row that say that it is to end
  def initialize(row, every, asks: [:stop_asked])
    @row = row
    @every = every
    @asks = asks
  end

  # @param at [Object] what the work is at: where that changes, it is told at once
  # @yield tells it; not called where that was done a moment ago
  # @return [Symbol, nil] :stop where the work is to end
  def call(at: nil)
    return :stop if Workplace.ending?
    return if @last && now - @last < @every && at == @at

    @last = now
    @at = at
    yield
    :stop if @row.class.where(id: @row.id).pick(*@asks, :id).first(@asks.size).any?
  end

  private

  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
end
