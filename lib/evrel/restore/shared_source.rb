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

      # A cluster that waits, and the bits of the readers that have not taken it yet.
      Kept = Struct.new(:data, :wanted)

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

        # One that was not right is read by whoever wants it, and what is held against nothing is shared with nobody.
        def cluster(index) = @image.cluster(index)
        def each_cluster(indexes, &) = @image.each_cluster(indexes, &)

        # As Live#rest_of; nothing where the source has none.
        def rest_of(index) = @image.is_a?(Image::Live) ? @image.rest_of(index) : nil

        # As ClustersAtOnce#each_cluster, for clusters that have to match.
        # @param digests [Hash{Integer=>String}] number → digest, nil where none is known; ascending
        # @yieldparam index [Integer]
        # @yieldparam data [String, nil] nil where it does not match, or was not to be had
        def each_sound(digests, &)
          @shared.take(self, digests).each(&)
        end

        # Whoever ends, or has failed, wants nothing any more.
        def close = @shared.leave(self)
      end

      # @return [Integer] clusters that were read from the image so far
      attr_reader :read

      # @param image [Image::Native, Image::Foreign, Image::Live]
      # @param count [Integer] of targets
      # @param room [Integer] bytes
      # @param patience [Numeric] seconds for which the others wait for a slow one
      def initialize(image, count, room: ROOM, patience: 0)
        @image = image
        @most = room / Image::CLUSTER
        @patience = patience
        @kept = {}
        @reading = {}
        @read = 0
        @lock = Mutex.new
        @arrived = ConditionVariable.new
        @readers = Array.new(count) { |place| Reader.new(self, image, 1 << place) }
      end

      # @return [Array<Reader>] one for each target
      def readers = @readers.dup

      # @param reader [Reader]
      # @param digests [Hash{Integer=>String}] number → digest
      # @return [Array<(Integer, String)>] nil in place of what was not to be had, or does not match
      def take(reader, digests)
        missing = @lock.synchronize do
          wait_for_others(reader)
          claim(digests.keys)
        end
        fetch(missing, digests) if missing.any?
        there = @lock.synchronize { digests.each_key.map { |index| [index, taken(reader, index)] } }
        # What was dropped before this reader came to it, it reads by itself.
        there.each { |one| one[1] ||= alone(one.first, digests[one.first]) }
      end

      # @param reader [Reader]
      def leave(reader)
        @lock.synchronize do
          @readers.delete(reader)
          @kept.delete_if { |_, kept| (kept.wanted &= ~reader.bit).zero? }
          @arrived.broadcast
        end
      end

      private

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
        @image.each_cluster(missing) { |index, data| found[index] = sound(data&.dup, digests[index]) }
      ensure
        @lock.synchronize do
          all = @readers.sum(&:bit)
          missing.each do |index|
            @reading.delete(index)
            @kept[index] = Kept.new(found[index], all)
          end
          @read += missing.size
          @kept.shift while @kept.size > @most
          @arrived.broadcast
        end
      end

      # With the lock.
      # @return [String, nil]
      def taken(reader, index)
        @arrived.wait(@lock) while @reading.key?(index)
        kept = @kept[index] or return
        kept.wanted &= ~reader.bit
        @kept.delete(index) && @arrived.broadcast if kept.wanted.zero?
        kept.data
      end

      def alone(index, digest)
        @lock.synchronize { @read += 1 }
        sound(@image.cluster(index), digest)
      rescue Error
        nil
      end

      def sound(data, digest) = (data if data && (digest.nil? || Image::Digests.of(data) == digest))
    end
  end
end
