# frozen_string_literal: true

module Evrel
  module Linux
    # Copies of this process that do not do what it was about to do.
    module Forked
      LOCK = Mutex.new
      private_constant :LOCK

      class << self
        # Files that other threads had open are nobody's in a copy. Ruby would close them there when it collects them, and
        # write out what those threads had not written yet, a second time and into the same file: here they stay as they
        # are until the copy has ended, and nothing is collected before that is seen to.
        # @yield in the copy, which ends with the block: nothing is done at its end that this process was to do at its own
        # @return [Integer] process id of the copy
        def fork
          copy = nil
          LOCK.synchronize do
            GC.disable
            copy = Process.fork
            @held = ObjectSpace.each_object(IO).to_a unless copy
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
      end
    end
  end
end
