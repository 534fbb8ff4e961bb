# frozen_string_literal: true

require 'fiddle'

module Evrel
  module Linux
    # What becomes of a process whose parent ends: prctl(2).
    module Death
      SIGNAL = 1 # PR_SET_PDEATHSIG, <linux/prctl.h>
      PRCTL = Fiddle::Function.new(Fiddle.dlopen(nil)['prctl'], [Fiddle::TYPE_INT, Fiddle::TYPE_LONG], Fiddle::TYPE_INT)

      # What a program that another one starts is put behind, so that the kernel ends both: setpriv(1).
      TIED = %w[setpriv --pdeathsig KILL].freeze

      # Ends a process that this one began, whatever it is at, and takes notice of it.
      # @param pid [Integer] may have ended by itself
      def self.of(pid)
        Process.kill(:KILL, pid)
        Process.wait(pid)
      rescue Errno::ESRCH, Errno::ECHILD
        nil
      end

      # Ends this process as soon as its parent has ended, or at once where it has already.
      # @param parent [Integer] process id
      def self.with_parent(parent)
        PRCTL.call(SIGNAL, Signal.list.fetch('KILL'))
        Process.exit! unless Process.ppid == parent
      end

      # The same for one that only helps its parent, for which Ctrl C at a terminal is meant.
      # @param parent [Integer] process id
      def self.with_helped(parent)
        with_parent(parent)
        trap('INT', 'IGNORE')
        trap('TERM', 'DEFAULT')
      end
    end
  end
end
