# frozen_string_literal: true

module Evrel
  module Restore
    # How a write is to be done. read_back: everything is read back and
    # compared; accept_unread: somebody decided that zeros may stand where the
    # image could not be read when it was taken; unused: what becomes of room
    # that the image does not fill, 'discard', 'zero' or 'leave'; skip_identical: the
    # target is read first, and only what differs is written; read_twice: while
    # everything is read back, the source is read a second time too, and has to
    # give the same bytes again.
    WriteOptions = Struct.new(:read_back, :accept_unread, :unused, :skip_identical, :read_twice, keyword_init: true) do
      # @raise [Refused] where a value is none of those
      def initialize(read_back: true, accept_unread: false, unused: 'discard', skip_identical: false, read_twice: false)
        raise Refused.new("unused room can be discarded, zeroed or left, not “#{unused}”", where: 'unused') unless
          WriteOptions::UNUSED.include?(unused)

        super
      end
    end
    WriteOptions::UNUSED = %w[discard zero leave].freeze
  end
end
