# frozen_string_literal: true

module Evrel
  # Ordered work on all cores: jobs go through a block side by side, their
  # results come out in the order in which the jobs went in. In processes where
  # the work can be done apart (see Crew), else on threads, which is worth it
  # where it spends its time without the interpreter's lock (reading, zstd).
  module Pipeline
    THREADS = 2
    AHEAD = 4 # jobs in flight per thread: bounds the memory

    # @param jobs [Enumerable] taken one after the other
    # @param work [#call] (job, out) → result; what it appends to out comes with the result
    # @param apart [Boolean] whether other processes can do it
    # @param room [Integer] bytes that one job appends at the most
    # @param strength [Integer] how many processes
    # @param threads [Integer] how many, where it is not done apart
    # @yieldparam result [Object] in order
    # @yieldparam bytes [String] begins with what was appended; only until the block returns
    # @raise whatever +work+ raised, at its place in the order
    def self.each(jobs, work, apart: false, room: 0, strength: Crew.strength, threads: THREADS, &block)
      return threads(jobs, work, threads, &block) unless apart

      crew = Crew.new(work, room:, strength:)
      crew.each(jobs, &block)
    ensure
      crew&.close
    end

    def self.threads(jobs, work, count)
      queue = SizedQueue.new(count * AHEAD)
      workers = Array.new(count) { Thread.new { run(queue, work) } }
      pending = []
      jobs.each do |job|
        slot = Queue.new
        queue << [job, slot]
        pending << slot
        yield(*taken(pending.shift)) if pending.size >= count * AHEAD
      end
      yield(*taken(pending.shift)) until pending.empty?
    ensure
      # None is killed: an answer that was half taken would be the next one's.
      queue&.clear
      queue&.close
      workers&.each(&:join)
    end

    def self.run(queue, work)
      while (job, slot = queue.pop)
        begin
          out = ''.b
          slot << [work.call(job, out), out, nil]
        rescue StandardError => e
          slot << [nil, nil, e]
        end
      end
    end

    def self.taken(slot)
      result, out, error = slot.pop
      raise error if error

      [result, out]
    end
    private_class_method :threads, :run, :taken
  end
end
