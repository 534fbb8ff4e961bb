# frozen_string_literal: true

module Evrel
  module Restore
    # One image for several targets that are written at the same time: each
    # cluster is read and decompressed once, and kept until every target has
    # taken it, within a bound. One that falls far behind reads for itself what was
    # dropped meanwhile, and holds nobody up, or for no longer than the others have
    # patience: of a failing drive nothing should be read twice.
    class SharedSource
      ROOM = 96 * MIB # of clusters that wait for the slower ones

      HELD = 128 # clusters that one target may be at, beside those that wait

      # A cluster that waits: where it lies, and the bits of the readers that have not taken it yet. One that is not sound lies
      # nowhere.
      Kept = Struct.new(:slot, :wanted)

      # What one target reads from: answers as an image does.
      class Reader
        # @return [Integer] a power of two, of this reader alone
        attr_reader :bit

        # @param shared [SharedSource]
        # @param image [Image::Native, Image::Foreign, Image::Live]
        # @param bit [Integer]
        def initialize(shared, image, bit)
          @shared = shared
          @image = image
          @bit = bit
        end

        %i[manifest disk digests map table format uid path members locked?].each do |name|
          define_method(name) { @image.public_send(name) }
        end

        # Other processes could not take what is kept here.
        def fork_safe? = false

        # @return [Helpers] that serve all targets
        def helpers = @shared.helpers

        # One that was not right is read by whoever wants it, and what is held against nothing is shared with nobody.
        def cluster(index) = @image.cluster(index)
        def each_cluster(indexes, &) = @image.each_cluster(indexes, &)

        # As Live; several writes would each leave something else for later.
        def goes_back? = @image.is_a?(Image::Live) && @shared.writes == 1
        def later?(index) = @image.is_a?(Image::Live) && @image.later?(index)
        def salvage_into(...) = @image.salvage_into(...)
        def settle = @image.settle

        # As Live#rest_of; nothing where the source has none.
        def rest_of(index) = @image.is_a?(Image::Live) ? @image.rest_of(index) : nil

        # As ClustersAtOnce#each_cluster, for clusters that have to match.
        # @param digests [Hash{Integer=>String}] number → digest, nil where none is known; ascending
        # @yieldparam index [Integer]
        # @yieldparam data [String, nil] nil where it does not match, or was not to be had
        def each_sound(digests, &)
          @shared.take(self, digests).map { |index, slot| [index, slot&.read] }.each(&)
        end

        # The same, where many are wanted at once.
        # @yieldparam index [Integer] of the first
        # @yieldparam count [Integer] of clusters that lie behind each other; one, where it holds nothing but zeros
        # @yieldparam piece [Slots::Piece, nil] all of them, until more is asked for; nil for one that does not match, or was
        #   not to be had
        def each_stretch(digests)
          @shared.take(self, digests).slice_when { |one, other| !behind?(one, other) }.each do |stretch|
            index, slot = stretch.first
            yield index, stretch.size, slot && Slots::Piece.new(slot, stretch.size)
          end
        end

        # Whoever ends, or has failed, wants nothing any more.
        def close = @shared.leave(self)

        private

        def behind?((index, slot), (next_index, next_slot)) = next_index == index + 1 && !slot.nil? && slot.before?(next_slot)
      end

      # @return [Integer] clusters that were read from the image so far
      attr_reader :read

      # @return [Helpers] processes that serve all targets
      attr_reader :helpers

      # @return [Integer] how many of the targets are disks
      attr_reader :writes

      # @param image [Image::Native, Image::Foreign, Image::Live]
      # @param count [Integer] of targets
      # @param room [Integer] bytes
      # @param patience [Numeric] seconds for which the others wait for a slow one
      # @param writes [Integer] how many of them are disks; the others are images that are taken on the way
      def initialize(image, count, room: ROOM, patience: 0, writes: count)
        @image = image
        @writes = writes
        @most = room / Image::CLUSTER
        @patience = patience
        @kept = {}
        @reading = {}
        @read = 0
        @lock = Mutex.new
        @arrived = ConditionVariable.new
        @slots = Slots.new(@most + ((count + 1) * HELD))
        @helpers = Helpers.new(memory: @slots.memory)
        @held = Hash.new { |held, reader| held[reader] = {} }
        @readers = Array.new(count) { |place| Reader.new(self, image, 1 << place) }
      end

      # @return [Array<Reader>] one for each target
      def readers = @readers.dup

      # What a reader took the last time it is through with: it takes more, or leaves.
      # @param reader [Reader]
      # @param digests [Hash{Integer=>String}] number → digest
      # @return [Array<(Integer, Slots::Slot)>] number, and what it lies in; nil in place of what was not to be had, or does
      #   not match
      def take(reader, digests)
        missing = @lock.synchronize do
          done(reader)
          wait_for_others(reader)
          claim(digests.keys)
        end
        fetch(missing, digests) if missing.any?
        there = @lock.synchronize do
          held = @held[reader][Thread.current] = []
          digests.each_key.map { |index| taken(reader, index, held) }
        end
        # What was dropped before this reader came to it, it reads by itself.
        there.each { |one| one[1] ||= alone(one.first, digests[one.first]) }
      end

      # @param reader [Reader]
      def leave(reader)
        @lock.synchronize do
          @held.delete(reader)&.each_value { |slots| slots.each(&:give_back) }
          @readers.delete(reader)
          @kept.each_value { |kept| kept.slot&.give_back if kept.wanted.anybits?(reader.bit) }
          @kept.delete_if { |_, kept| (kept.wanted &= ~reader.bit).zero? }
          @arrived.broadcast
        end
        return if @readers.any?

        @helpers.close
        @slots.close
      end

      private

      # A reader may have several threads. The last comes first, so that what is read next lies in order again.
      def done(reader) = @held[reader].delete(Thread.current)&.reverse_each(&:give_back)

      # What would be dropped first.
      def oldest = @kept.each_value.first

      # Where what would be dropped waits for others.
      def wait_for_others(reader)
        till = now + @patience
        while @patience.positive? && @kept.size >= @most && oldest.wanted.nobits?(reader.bit) && now < till
          before = oldest
          @arrived.wait(@lock, 1)
          till = now + @patience unless @kept.any? && oldest.equal?(before)
        end
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      # @return [Array<Integer>] those that nobody has read or reads: now this one does
      def claim(indexes)
        indexes.reject { |index| @kept.key?(index) || @reading.key?(index) }.each { |index| @reading[index] = true }
      end

      # Others wait for what is being read just now.
      def fetch(missing, digests)
        found = {}
        @image.each_cluster(missing) { |index, data| found[index] = @slots.put(data) if sound?(data, digests[index]) }
      ensure
        @lock.synchronize do
          all = @readers.sum(&:bit)
          missing.each do |index|
            @reading.delete(index)
            @kept[index] = Kept.new(found[index]&.wanted_by(@readers.size), all)
          end
          @read += missing.size
          drop(@kept.shift.last) while @kept.size > @most
          @arrived.broadcast
        end
      end

      # Those that have not come to it do not wait for it any more.
      def drop(kept) = @readers.each { |reader| kept.slot&.give_back if kept.wanted.anybits?(reader.bit) }

      # With the lock.
      # @param held [Array<Slots::Slot>] gets what it lies in
      # @return [(Integer, Slots::Slot)] the last nil where it is not there
      def taken(reader, index, held)
        @arrived.wait(@lock) while @reading.key?(index)
        kept = @kept[index] or return [index, nil]
        slot = kept.slot
        # Whoever takes it once more was not counted.
        slot.wanted_by(1) if slot && kept.wanted.nobits?(reader.bit)
        held << slot if slot
        kept.wanted &= ~reader.bit
        @kept.delete(index) && @arrived.broadcast if kept.wanted.zero?
        [index, slot]
      end

      def alone(index, digest)
        @lock.synchronize { @read += 1 }
        data = @image.cluster(index)
        Slots::Loose.new(data) if sound?(data, digest)
      rescue Error
        nil
      end

      def sound?(data, digest) = data && (digest.nil? || Image::Digests.of(data) == digest)
    end
  end
end
