# frozen_string_literal: true

module Evrel
  # Ordered work on both cores: jobs go through a block on several threads,
  # their results come out in the order in which the jobs went in. Worth it
  # where the block spends its time without the interpreter's lock (reading,
  # zstd).
  module Pipeline
    THREADS = 2
    AHEAD = 4 # jobs in flight per thread: bounds the memory

    # @param jobs [Enumerable] taken one after the other
    # @param work [Proc] job → result, on one of the threads
    # @yieldparam result [Object] in order
    # @raise whatever +work+ raised, at its place in the order
    def self.each(jobs, work, threads: THREADS)
      queue = SizedQueue.new(threads * AHEAD)
      workers = Array.new(threads) { Thread.new { run(queue, work) } }
      pending = []
      jobs.each do |job|
        slot = Queue.new
        queue << [job, slot]
        pending << slot
        yield taken(pending.shift) if pending.size >= threads * AHEAD
      end
      yield taken(pending.shift) until pending.empty?
    ensure
      queue&.close
      workers&.each(&:kill)
      workers&.each(&:join)
    end

    def self.run(queue, work)
      while (job, slot = queue.pop)
        begin
          slot << [work.call(job), nil]
        rescue StandardError => e
          slot << [nil, e]
        end
      end
    end
    private_class_method :run

    def self.taken(slot)
      result, error = slot.pop
      raise error if error

      result
    end
    private_class_method :taken
  end
end
