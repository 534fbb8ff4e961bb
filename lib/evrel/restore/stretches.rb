# frozen_string_literal: true

module Evrel
  module Restore
    # Lays clusters that lie behind each other into one string, from which each
    # target is written with one call.
    class Stretches
      # Their bytes, and how often they are still to be taken or written. The memory is given back when nobody wants it any
      # more: the collector does not know how much it is.
      Stretch = Struct.new(:bytes, :users) do
        # @return [Stretch] itself
        def wanted_by(count)
          self.users += count
          self
        end

        def give_back
          self.users -= 1
          bytes.clear if users.zero?
        end
      end
      ZEROS = Stretch.new(Image::Capture::ZEROS, Float::INFINITY) # one cluster of them, for all

      def initialize
        @places = {}
      end

      # @param index [Integer] ascending
      # @param data [String] the caller's own again afterwards
      def add(index, data)
        return @places[index] = [ZEROS, 0] if data == Image::Capture::ZEROS

        last, at = @places[index - 1]
        stretch = behind?(last, at) ? last : Stretch.new(String.new(capacity: Joined::MOST, encoding: Encoding::BINARY), 0)
        @places[index] = [stretch, stretch.bytes.bytesize]
        stretch.bytes << data
      end

      # @return [(Stretch, Integer)] where the cluster lies, and its byte there; nil where it was not added
      def place(index) = @places.fetch(index, [nil, 0])

      private

      # The last cluster of a disk may be shorter.
      def behind?(stretch, at)
        stretch && !stretch.equal?(ZEROS) && stretch.bytes.bytesize == at + Image::CLUSTER && stretch.bytes.bytesize < Joined::MOST
      end
    end
  end
end
