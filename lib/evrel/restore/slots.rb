# frozen_string_literal: true

module Evrel
  module Restore
    # Memory for clusters that several targets get, which other processes see
    # too. A slot holds one, and is used again when the last target has it.
    class Slots
      # @!attribute place [Integer] byte of the memory
      # @!attribute users [Integer] how often it is still to be taken or written
      Slot = Struct.new(:slots, :place, :users) do
        # @param count [Integer] how often it will be taken
        # @return [Slot] itself
        def wanted_by(count)
          self.users += count
          self
        end

        def give_back
          self.users -= 1
          slots.free(self) if users.zero?
        end

        # @return [String] the caller's own
        def read(length = Image::CLUSTER) = slots.read(place, length)

        # @return [Boolean] whether the bytes of another one follow in the memory
        def before?(other) = other.is_a?(Slot) && place + Image::CLUSTER == other.place
      end

      # A cluster that lies in no slot: zeros, which are the same for all, what one target read for itself, or a short one.
      Loose = Struct.new(:bytes) do
        def wanted_by(_count) = self
        def give_back; end
        def place = nil
        def read(length = bytes.bytesize) = bytes.byteslice(0, length)
        def before?(_other) = false
      end
      ZEROS = Loose.new(Image::Capture::ZEROS)

      # Clusters that lie behind each other.
      Piece = Struct.new(:first, :count) do
        # @return [Integer, nil] byte of the memory; nil where they are loose
        def place = first.place

        def bytesize = place ? count * Image::CLUSTER : first.bytes.bytesize

        # @return [Boolean] whether they are known to be zeros
        def zeros? = first.equal?(ZEROS)

        # @return [String] the caller's own, or zeros
        def to_s = first.read(bytesize)
      end

      # @return [Linux::SharedMemory] all of them
      attr_reader :memory

      # @param count [Integer] of slots; their memory is taken when they are filled
      def initialize(count)
        @memory = Linux::SharedMemory.new(count * Image::CLUSTER)
        @free = Array.new(count) { |number| Slot.new(self, number * Image::CLUSTER, 0) }.reverse
        @lock = Mutex.new
      end

      # What was used last comes first: that memory is there already.
      # @param bytes [String] of a cluster, the caller's own again afterwards
      # @return [Slot, Loose, nil] that they lie in, for whoever says by whom it is wanted; nil where there is no room
      def put(bytes)
        return ZEROS if bytes == ZEROS.bytes
        # The last one of a disk.
        return Loose.new(bytes.dup) if bytes.bytesize < Image::CLUSTER

        slot = @lock.synchronize { @free.pop } or return
        @memory.write(slot.place, bytes)
        slot
      end

      # @param slot [Slot] that nobody wants any more
      def free(slot) = @lock.synchronize { @free.push(slot) }

      # @return [String] of the memory
      def read(place, length) = @memory.read_into("\0".b * length, place, length)

      def close = @memory.close
    end
  end
end
