# frozen_string_literal: true

require 'fiddle'

module Evrel
  module Linux
    # Copies of this process that do not do what it was about to do.
    module Forked
      LOCK = Mutex.new
      # close(2): the number alone, without what Ruby still meant to write.
      CLOSE = Fiddle::Function.new(Fiddle.dlopen(nil)['close'], [Fiddle::TYPE_INT], Fiddle::TYPE_INT)
      STREAMS = 2 # the last of input, output and errors
      private_constant :LOCK, :CLOSE, :STREAMS

      class << self
        # @return [Array<IO>] in a copy: what was open where it was made
        attr_reader :held

        # Files that other threads had open are nobody's in a copy. Ruby would close them there when it collects them, and
        # write out what those threads had not written yet, a second time and into the same file: here they stay as they
        # are until the copy has ended, and nothing is collected before that is seen to. Only their pipes are let go of: who
        # reads from a program in one would wait for its end as long as the copy lives.
        # @param keep [Array<IO>] pipes that the copy needs
        # @yield in the copy, which ends with the block: nothing is done at its end that this process was to do at its own
        # @return [Integer] process id of the copy
        def fork(keep: [])
          copy = nil
          LOCK.synchronize do
            GC.disable
            copy = Process.fork
            @held = ObjectSpace.each_object(IO).to_a unless copy
            let_go(@held - keep) unless copy
          ensure
            GC.enable
          end
          return copy if copy

          begin
            yield
          ensure
            Process.exit!(true)
          end
        end

        private

        def let_go(files)
          files.each do |file|
            CLOSE.call(file.fileno) if file.fileno > STREAMS && file.stat.pipe?
          rescue IOError, SystemCallError
            nil # closed, or never opened
          end
        end
      end
    end
  end
end
