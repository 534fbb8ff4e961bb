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

      # A cluster that waits, and the readers that have not taken it yet.
      Kept = Struct.new(:data, :wanted)

      # What one target reads from: answers as an image does.
      class Reader
        # @param shared [SharedSource]
        # @param image [Image::Native, Image::Foreign, Image::Live]
        def initialize(shared, image)
          @shared = shared
          @image = image
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
        @readers = Array.new(count) { Reader.new(self, image) }
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
        digests.map { |index, digest| [index, taken(reader, index, digest)] }
      end

      # @param reader [Reader]
      def leave(reader)
        @lock.synchronize do
          @readers.delete(reader)
          @kept.each_value { |kept| kept.wanted.delete(reader) }
          @kept.delete_if { |_, kept| kept.wanted.empty? }
          @arrived.broadcast
        end
      end

      private

      # What would be dropped first.
      def oldest = @kept.each_value.first

      # Where what would be dropped waits for others.
      def wait_for_others(reader)
        till = now + @patience
        while @patience.positive? && @kept.size >= @most && !oldest.wanted.include?(reader) && now < till
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
          missing.each do |index|
            @reading.delete(index)
            @kept[index] = Kept.new(found[index], @readers.dup)
          end
          @read += missing.size
          @kept.shift while @kept.size > @most
          @arrived.broadcast
        end
      end

      # What was dropped before this reader came to it, it reads by itself.
      def taken(reader, index, digest)
        data = @lock.synchronize do
          @arrived.wait(@lock) while @reading.key?(index)
          kept = @kept[index]
          kept&.wanted&.delete(reader)
          @kept.delete(index) && @arrived.broadcast if kept && kept.wanted.empty?
          kept&.data
        end
        data || alone(index, digest)
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
