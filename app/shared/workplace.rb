# frozen_string_literal: true

require 'socket'

# The process that works in the background: who it is, whether another one
# still lives, and whether this one is asked to end.
module Workplace
  # What says that the database is not there. The row cannot be told then: nobody's work it will be, and taken up.
  LOST = [ActiveRecord::ConnectionNotEstablished, ActiveRecord::ConnectionFailed, ActiveRecord::ConnectionTimeoutError,
          ActiveRecord::AdapterTimeout].freeze
  BOOT = '/proc/sys/kernel/random/boot_id'
  STARTED = 19 # fields behind the name in /proc/PID/stat: when the process was started

  class << self
    # @return [Delayed::Worker, nil]
    attr_accessor :worker

    # @return [Boolean] whether this process was asked to end: its work stops at the next safe point and is put back
    def ending? = worker&.stop? || false

    # @return [Boolean] the same, with a moment for a signal that is on its way
    def ending_soon?
      return false unless worker

      sleep 0.3 unless ending?
      ending?
    end

    # @return [String] this process, and no other one before or after it
    def name = "#{host} #{Process.pid} #{started(Process.pid)}"

    # @param name [String] of a process
    # @return [Boolean, nil] nil where it cannot be told from here
    def alive?(name)
      where, boot, pid, since = name.to_s.split
      return unless "#{where} #{boot}" == host || where == Socket.gethostname

      boot == host.split.last && started(pid.to_i) == since
    end

    private

    def host = @host ||= "#{Socket.gethostname} #{File.read(BOOT).strip}"

    def started(pid)
      File.read("/proc/#{pid}/stat").rpartition(')').last.split[STARTED]
    rescue SystemCallError
      nil
    end
  end
end
