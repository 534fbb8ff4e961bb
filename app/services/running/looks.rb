# frozen_string_literal: true

# Looks into what others made, each in a process of its own: a few at a time for
# each technician, so that slow ones hold up nobody else.
module Looks
  AT_ONCE = 3
  PATIENCE = 20 # seconds that one waits for its turn
  LOCK = Mutex.new
  FREE = ConditionVariable.new
  RUNNING = Hash.new(0)
  private_constant :LOCK, :FREE, :RUNNING

  module_function

  # As Evrel::Apart.call.
  # @param technician [Technician]
  # @raise [Evrel::Refused] where it is not its turn for long
  def call(technician, **limits, &block) = turn(technician.id) { Evrel::Apart.call(**limits, &block) }

  # As Evrel::Apart.stream.
  def stream(technician, sink, **limits, &block) = turn(technician.id) { Evrel::Apart.stream(sink, **limits, &block) }

  def turn(id)
    take(id)
    begin
      yield
    ensure
      LOCK.synchronize do
        RUNNING[id] -= 1
        RUNNING.delete(id) if RUNNING[id].zero?
        FREE.broadcast
      end
    end
  end

  def take(id)
    till = now + PATIENCE
    LOCK.synchronize do
      while RUNNING[id] >= AT_ONCE
        left = till - now
        raise Evrel::Refused.new("#{AT_ONCE} looks of yours are under way", where: 'looks', hint: 'wait until one has ended') if left <= 0

        FREE.wait(LOCK, left)
      end
      RUNNING[id] += 1
    end
  end

  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
  private_class_method :turn, :take, :now
end
