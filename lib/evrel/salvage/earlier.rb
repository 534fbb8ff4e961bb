# frozen_string_literal: true

module Evrel
  module Salvage
    # An image that was taken of the same disk before, and lacks places: what it
    # holds is not asked of the disk again, only what it lacks.
    class Earlier
      SAMPLE = 64 # clusters that are read of the disk, and held against the image
      BATCH = 64

      # @param image [Image::Native]
      # @param disk [Disk]
      def initialize(image, disk)
        @image = image
        @disk = disk
      end

      # Takes over what it holds, unless something was read already.
      # @param store [Store]
      # @raise [Refused] where the disk is another one, or not as it was
      def into(store)
        return if store.map.total(:read).positive?

        same!
        @image.digests.each_batch(batch: BATCH) { |batch| take(batch.map(&:first), store) }
        zeros(store) unless chosen?
        store.note
      end

      private

      def take(numbers, store)
        @image.each_cluster(numbers) do |number, data|
          next unless data # it cannot be read there: the disk is asked

          each_held(number * Image::CLUSTER, data.bytesize) do |offset, length|
            store.take(offset, data.byteslice(offset - (number * Image::CLUSTER), length))
          end
        end
      end

      # What is in use and not in the list of digests was zeros.
      def zeros(store)
        Image::UsedMap.new(@image.disk).each_run do |offset, length|
          first = offset / store.map.sector * store.map.sector
          below = (offset + length + store.map.sector - 1) / store.map.sector * store.map.sector
          each_held(first, below - first) do |from, size|
            store.map.in_state([[from, size]], :left).each { |range| store.map.set(*range, :read) }
          end
        end
      end

      # Whether it holds less than all that was in use: zeros may be what was left out then.
      def chosen? = @image.manifest.not_taken.any? || @image.manifest.temporary.any?

      # Yields what of a range the image was given by the disk.
      def each_held(offset, length)
        below = [offset + length, @disk.size].min
        lacking = @image.manifest.unread.select { |from, size| from < below && from + size > offset }
        lacking.each do |from, size|
          yield offset, from - offset if from > offset
          offset = [offset, from + size].max
        end
        yield offset, below - offset if offset < below
      end

      # Its table, the beginning of each part, and places in between.
      def same!
        unless @disk.size == @image.manifest.size
          raise Refused.new("the disk has #{@disk.size} bytes, that of the image had #{@image.manifest.size}", where: 'disk')
        end

        known = sample.reject { |number, _| lacks?(number) }
        seen = known.map { |number, digest| given(number)&.then { |data| Image::Digests.of(data) == digest } }.compact
        return if seen.any? && seen.all?

        raise Refused.new('the disk is not as it was when that image was taken', where: 'disk', hint: 'read all of it')
      end

      # @return [Array<(Integer, String)>] numbers and digests
      def sample
        starts = [0, *@image.table&.partitions.to_a.map { |part| part.start / Image::CLUSTER }]
        count = @image.digests.count
        places = (0...count).step([count / SAMPLE, 1].max).flat_map { |at| @image.digests.slice(at, 1) }
        (places + starts.filter_map { |number| @image.digests.of(number)&.then { |digest| [number, digest] } }).uniq
      end

      def lacks?(number)
        at = number * Image::CLUSTER
        @image.manifest.unread.any? { |from, size| from < at + Image::CLUSTER && from + size > at }
      end

      # @return [String, nil] nil where the disk does not give it (any more)
      def given(number)
        at = number * Image::CLUSTER
        @disk.read(at, [Image::CLUSTER, @disk.size - at].min).ljust(Image::CLUSTER, "\0")
      rescue Away
        raise
      rescue Unreadable
        nil
      end
    end
  end
end
