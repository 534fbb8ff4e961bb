# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # What a mend would change on a disk, byte for byte, before anything is
      # changed: before and after are words for people, changes the bytes.
      Draft = Struct.new(:mend, :title, :before, :after, :changes, keyword_init: true) do
        # @return [Integer] bytes that become others
        def bytes = changes.sum { |change| change.after.bytesize }

        # @param told [Hash] as `told` made it, through JSON
        # @return [Draft]
        def self.of(told)
          changes = told['changes'].map { |offset, *both| Change.new(offset, *both.map { |bytes| bytes.unpack1('m0') }) }
          new(**%i[mend title before after].to_h { |name| [name, told[name.to_s]] }, changes:)
        end

        # @return [Hash] as JSON can say it, with the bytes
        def told
          { mend:, title:, before:, after:, changes: changes.map { |one| [one.offset, [one.before].pack('m0'), [one.after].pack('m0')] } }
        end

        # @return [Hash] without the bytes themselves
        def to_h = { mend:, title:, before:, after:, bytes:, places: changes.map { |change| [change.offset, change.after.bytesize] } }
      end
    end
  end
end
