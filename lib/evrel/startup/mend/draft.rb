# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # What a mend would change on a disk, byte for byte, before anything is
      # changed: before and after are words for people, changes the bytes.
      Draft = Struct.new(:mend, :title, :before, :after, :changes, keyword_init: true) do
        # @return [Integer] bytes that become others
        def bytes = changes.sum { |change| change.after.bytesize }

        # @return [Hash] without the bytes themselves
        def to_h = { mend:, title:, before:, after:, bytes:, places: changes.map { |change| [change.offset, change.after.bytesize] } }
      end
    end
  end
end
