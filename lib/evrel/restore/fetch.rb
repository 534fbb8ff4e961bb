# frozen_string_literal: true

module Evrel
  module Restore
    # Takes clusters from a source, holds them against their digests, and writes
    # them, or gives what has to be written. Works in any process.
    class Fetch
      # What a batch came to. last is the number of its last cluster, clusters
      # how many it had; runs are byte offset on the target and length of what
      # is still to be written, in the order of the bytes that go with them;
      # moved are bytes to write, spared those that the target has already;
      # retries how often the source was asked again, taken what was not from
      # the image itself (see Decisions), later numbers of clusters that are left
      # for later (see Leftover); cpu and seconds are the time that it took.
      Fetched = Struct.new(:last, :clusters, :runs, :moved, :spared, :retries, :taken, :later, :cpu, :seconds)

      # @param error [Error]
      # @return [Symbol] as in Trouble
      def self.kind(error)
        return :away if error.is_a?(Away)

        error.is_a?(Unreadable) ? :unreadable : :damaged
      end

      # @param feed [Feed]
      # @param target [Disk]
      # @param skip_identical [Boolean] leaves out what the target has already
      # @param empty [Boolean] what is not written there is known to be zero
      # @param direct [Boolean] writes by itself
      # @param leaves [Boolean] whether what the source does not give is left for later, where it will be asked again
      # @param retrying [Retry]
      def initialize(feed, target, skip_identical: false, empty: true, direct: false, leaves: false, retrying: Retry.new)
        @feed = feed
        @target = target
        @skip_identical = skip_identical
        @empty = empty
        @direct = direct
        @leaves = leaves
        @retry = retrying
      end

      # @param span [(Integer, Integer)] as in Image::Digests#each_span
      # @param out [#<<] gets the bytes that are still to be written
      # @return [Fetched]
      # @raise [Trouble] nothing of a wrong cluster leaves this
      def call(span, out) = batch(@feed.slice(*span), out)

      # @param batch [Array<(Integer, String)>] numbers and digests of clusters, ascending
      # @return [Fetched]
      def batch(batch, out)
        began = times
        fetched = Fetched.new(batch.last.first, batch.size, [], 0, 0, 0, [], [])
        own = batch.reject { |index, _| @feed.except?(index) }
        wanted = @skip_identical ? own.reject { |index, digest| there?(index, digest) } : own
        fetched.spared = (own.size - wanted.size) * Image::CLUSTER
        out = Joined.new(@target, @feed.helpers) if @direct
        stretches?(wanted) ? add_stretches(wanted, fetched, out) : @feed.each_cluster(wanted) { |*one| add_or_leave(*one, fetched, out) }
        out.flush if @direct
        fetched.cpu, fetched.seconds = times.zip(began).map { |now, before| now - before }
        fetched
      end

      def direct? = @direct

      # @return [Integer] bytes that a batch of so many clusters may give at the most
      def room(clusters) = @direct ? 0 : clusters * Image::CLUSTER

      private

      def times = [Process::CLOCK_THREAD_CPUTIME_ID, Process::CLOCK_MONOTONIC].map { |clock| Process.clock_gettime(clock) }

      # What the target has to be asked for goes one by one.
      def stretches?(wanted) = @direct && @feed.shared? && (!@skip_identical || wanted.all?(&:last))

      def add_stretches(wanted, fetched, out)
        digests = wanted.to_h
        @feed.each_stretch(wanted) do |indexes, data, plain|
          if plain && !(@empty && data.zeros?)
            fetched.moved += data.bytesize
            out.stretch(@feed.offset_of(indexes.first), data)
          else
            bytes = data&.to_s
            indexes.each.with_index do |index, at|
              add_or_leave(index, digests[index], bytes&.byteslice(at * Image::CLUSTER, Image::CLUSTER), fetched, out)
            end
          end
        end
      end

      def add_or_leave(index, digest, data, fetched, out)
        @leaves && data.nil? && @feed.later?(index) ? fetched.later << index : add(index, digest, data, fetched, out)
      end

      def add(index, digest, data, fetched, out)
        offset, bytes = @feed.clip(index, data || checked(index, digest, fetched))
        return if @empty && bytes == Image::Capture::ZEROS
        return fetched.spared += bytes.bytesize if @skip_identical && !known?(index,
                                                                              digest) && @target.read(offset, bytes.bytesize) == bytes

        fetched.moved += bytes.bytesize
        return out.add(offset, bytes) if @direct

        out << bytes
        last = fetched.runs.last
        last && last.sum == offset ? last[1] += bytes.bytesize : fetched.runs << [offset, bytes.bytesize]
      end

      # The digest is that of what the target gets.
      def known?(index, digest) = !digest.nil? && @feed.plain?(index)

      def there?(index, digest)
        known?(index, digest) && Image::Digests.of(@target.read(@feed.offset_of(index), Image::CLUSTER)) == digest
      end

      # One that was not right at the first attempt.
      def checked(index, digest, fetched)
        fetched.retries += 1
        @retry.call(->(_) { fetched.retries += 1 }) { @feed.cluster(index, digest) }
      rescue Mismatch, Damaged, Unreadable => e
        data, how = @feed.instead(index, digest)
        raise named(e, index) unless data

        fetched.taken << { cluster: index, part: @feed.piece.number, how: }
        data
      end

      def named(error, index)
        Trouble.new(error.message, where: error.where, hint: error.hint, side: :source, cluster: index, part: @feed.piece.number,
                                   kind: Fetch.kind(error))
      end
    end
  end
end
