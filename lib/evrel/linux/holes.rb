# frozen_string_literal: true

require 'fiddle'

module Evrel
  module Linux
    # Gives a range of a file back to its file system: fallocate(2).
    module Holes
      # FALLOC_FL_KEEP_SIZE | FALLOC_FL_PUNCH_HOLE, <linux/falloc.h>
      PUNCH_HOLE = 0x03
      FALLOCATE = Fiddle::Function.new(
        Fiddle.dlopen(nil)['fallocate'],
        [Fiddle::TYPE_INT, Fiddle::TYPE_INT, Fiddle::TYPE_LONG_LONG, Fiddle::TYPE_LONG_LONG], Fiddle::TYPE_INT
      )

      # @param io [IO] opened for writing
      # @param offset [Integer] bytes
      # @param length [Integer] bytes
      # @return [Boolean] false where its file system knows no holes
      def self.punch(io, offset, length) = FALLOCATE.call(io.fileno, PUNCH_HOLE, offset, length).zero?
    end
  end
end
