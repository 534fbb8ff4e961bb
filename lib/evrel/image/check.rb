# frozen_string_literal: true

require 'digest'

module Evrel
  module Image
    # Checks an image: each cluster against its digest, the small files against
    # SHA256SUMS. Damage is told by cluster, offset and part.
    class Check
      BATCH = 32
      # Damage beyond this many places is counted, not listed.
      MOST_LISTED = 100

      # clusters and damaged are counts; places are hashes with cluster,
      # offset (bytes on the disk), part (number or nil) and reason.
      Result = Struct.new(:clusters, :damaged, :places, :files, keyword_init: true) do
        def whole? = damaged.zero? && files.empty?
      end

      # @param image [Native]
      def initialize(image)
        @image = image
      end

      # @yieldparam done [Integer] clusters
      # @yieldparam total [Integer]
      # @return [Result]
      def run
        done = damaged = 0
        places = []
        Pipeline.each(@image.digests.each_batch(batch: BATCH), method(:check)) do |found|
          found.each do |index, reason|
            done += 1
            next unless reason

            damaged += 1
            places << place(index, reason) if places.size < MOST_LISTED
          end
          yield done, @image.digests.count if block_given?
        end
        Result.new(clusters: done, damaged:, places:, files: bad_files)
      end

      private

      def check(batch)
        batch.map do |index, digest|
          reason = 'does not match its digest' unless Digests.of(@image.disk.cluster(index)) == digest
          [index, reason]
        rescue Error => e
          [index, e.message]
        end
      end

      def place(index, reason)
        offset = index * CLUSTER
        part = @image.manifest.partitions.find do |entry|
          offset + CLUSTER > entry['start_bytes'] && offset < entry['start_bytes'] + entry['size_bytes']
        end
        { cluster: index, offset:, part: part && part['number'], reason: }
      end

      # disk.qcow2 is left out: its clusters were just checked one by one.
      def bad_files
        sums = ::File.join(@image.path, Native::SUMS)
        return ["#{Native::SUMS} is missing"] unless ::File.file?(sums)

        ::File.readlines(sums, chomp: true).filter_map do |line|
          sum, name = line.split('  ', 2)
          next if name == Native::DISK

          path = ::File.join(@image.path, ::File.basename(name.to_s))
          next "#{name} is missing" unless ::File.file?(path)

          "#{name} does not match its checksum" unless Digest::SHA256.file(path).hexdigest == sum
        end
      end
    end
  end
end
