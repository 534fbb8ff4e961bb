# frozen_string_literal: true

module Evrel
  class Crew
    # The room in shared memory that the bytes of one job go into.
    class Slot
      attr_reader :bytesize

      # @param memory [Linux::SharedMemory]
      # @param offset [Integer] bytes
      # @param room [Integer] bytes
      def initialize(memory, offset, room)
        @memory = memory
        @offset = offset
        @room = room
        @bytesize = 0
      end

      # Appends, as a String does.
      # @raise [OutOfRange] where the room is full
      def <<(bytes)
        raise OutOfRange.new("a job gave more than #{@room} bytes", where: 'memory') if @bytesize + bytes.bytesize > @room

        @memory.write(@offset + @bytesize, bytes)
        @bytesize += bytes.bytesize
        self
      end
    end
  end
end
