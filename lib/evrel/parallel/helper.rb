# frozen_string_literal: true

require 'socket'

module Evrel
  # A process that works for this one, and our end of the line to it. It ends
  # with the thread that began it (PR_SET_PDEATHSIG, prctl(2)): nobody works on
  # for a process that was killed, or holds its files open.
  Helper = Struct.new(:pid, :line) do
    # @param others [Array<Helper>] begun before: the new one has no business with their lines
    # @yieldparam line [UNIXSocket] its end; it ends with the block
    # @return [Helper]
    def self.begin(others)
      ours, theirs = UNIXSocket.pair
      parent = Process.pid
      pid = Linux::Forked.fork do
        [ours, *others.map(&:line)].each(&:close)
        Linux::Death.with_helped(parent)
        yield theirs
      end
      theirs.close
      new(pid, ours)
    end
  end
end
