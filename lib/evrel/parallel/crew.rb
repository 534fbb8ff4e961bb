# frozen_string_literal: true

require 'etc'
require 'socket'

module Evrel
  # Processes that work on jobs side by side, each with an interpreter of its
  # own: nobody waits for the interpreter's lock. Jobs and results go over
  # sockets, bytes through shared memory.
  #
  # A job must not need what only the process that began it has: an open
  # connection, a disk that counts (see Disk#fork_safe?).
  class Crew
    WORTH = 512 # clusters, 32 MiB: for fewer it takes longer to begin than they gain
    AHEAD = 3 # jobs that wait for each: bounds the memory
    TIDY = 16 # jobs until what they left behind is given back: the collector does not know how much it is

    # @return [Integer] as many as there are cores, within reason
    def self.strength = Etc.nprocessors.clamp(2, 8)

    # @param work [#call] (job, out) → result; what it appends to out comes back as bytes
    # @param room [Integer] bytes that a job may give at the most
    # @param strength [Integer] how many processes
    def initialize(work, room:, strength: Crew.strength)
      @work = work
      @room = room
      @slots = strength * AHEAD
      @memory = Linux::SharedMemory.new(@slots * room) if room.positive?
      @buffer = "\0".b * room # one for all: making one each time costs more than filling it
      @members = []
      strength.times { @members << Helper.begin(@members) { |line| serve(line) } }
    end

    # @param jobs [Enumerable] taken one after the other
    # @yieldparam result [Object] in the order of the jobs
    # @yieldparam bytes [String] begins with them; only until the block returns
    # @raise whatever +work+ raised, at its place in the order
    def each(jobs, &)
      given = taken = 0
      jobs.each do |job|
        if given - taken == @slots
          deliver(taken, &)
          taken += 1
        end
        Marshal.dump([given % @slots, job], member(given).line)
        given += 1
      end
      (taken...given).each { |number| deliver(number, &) }
    end

    # Ends all of them at once, whatever they are at.
    def close
      @members.map { |one| Process.kill(:KILL, one.pid) }
      @members.each do |one|
        Process.wait(one.pid)
        one.line.close
      end
      @memory&.close
    end

    private

    def member(number) = @members[number % @members.size]

    def serve(line)
      1.step do |count|
        slot, job = Marshal.load(line) # rubocop:disable Security/MarshalLoad -- our own process at the other end
        out = Slot.new(@memory, slot * @room, @room)
        Marshal.dump([*outcome(job, out), out.bytesize], line)
        GC.start(full_mark: false) if (count % TIDY).zero?
      end
    rescue EOFError, SystemCallError
      nil # nobody asks any more
    end

    # @return [Array] result and error, one of them nil
    def outcome(job, out)
      [@work.call(job, out), nil]
    rescue StandardError => e
      [nil, e]
    end

    def deliver(number)
      result, error, size = Marshal.load(member(number).line) # rubocop:disable Security/MarshalLoad -- our own process
      raise error if error

      yield result, size.zero? ? '' : @memory.read_into(@buffer, (number % @slots) * @room, size)
    rescue EOFError
      raise Unreadable.new('a process that worked on the image was ended from outside', where: 'memory', hint: 'go on')
    end
  end
end
