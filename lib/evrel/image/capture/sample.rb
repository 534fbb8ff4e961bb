# frozen_string_literal: true

module Evrel
  module Image
    # What an image of a disk would take, measured on some of its clusters: how
    # fast they are read, and how small and how fast they become at each level.
    class Sample
      GROUPS = 64 # how they differ says how sure the mean is
      NEIGHBOURS = 4 # clusters of a group: in all 16 MiB
      LEAST = 0.08 # a mean is seldom nearer than that share to what comes of it
      # Reading here and there takes longer than all of it in a row; a disk without moving parts does not mind.
      SPREAD = 4

      # Of one level: stored bytes and seconds as [low, high].
      Forecast = Struct.new(:level, :stored, :seconds, keyword_init: true)

      # @param disk [Disk]
      # @param map [UsedMap] with the parts that are chosen
      # @param levels [Array<Integer>] of zstd
      # @param zeros [Array<(Integer, Integer)>] as Packer
      def initialize(disk, map, levels, zeros: [])
        @map = map
        @levels = levels
        @packer = Packer.new(disk, CaptureOptions.new(tolerate_unread: true), zeros)
      end

      # @param writes [Float, nil] bytes per second that the shelf takes, where that is known
      # @param processes [Integer] that pack beside each other
      # @return [Array<Forecast>] one for each level
      def forecasts(writes: nil, processes: Crew.strength)
        return @levels.map { |level| Forecast.new(level:, stored: [0, 0], seconds: [0, 0]) } if clusters.empty?

        @levels.map { |level| forecast(level, writes, processes) }
      end

      # @return [Integer] bytes of all clusters that would be taken
      def total = count * CLUSTER

      private

      def count = @count ||= @map.each_cluster.count

      # Beside the clusters: a table for each half gigabyte of the disk in which something lies, in front of which up to as
      # much again is left empty.
      # @return [Array<Integer>] bytes, at the least and at the most
      def tables
        @tables ||= @map.each_cluster.map { |index, _| index / Qcow2Writer::L2_ENTRIES }.uniq.size.then { |size| [size * CLUSTER, 2 * size * CLUSTER] }
      end

      # Evenly over all that is used; little is taken whole.
      def clusters
        @clusters ||= begin
          apart = count / GROUPS
          whole = apart <= 2 * NEIGHBOURS
          @map.each_cluster.with_index.select { |_, at| whole || at % apart < NEIGHBOURS }.map(&:first)
        end
      end

      # @return [Array<(Float, Array<String>)>] seconds of reading, and what was read, by group
      def read
        @read ||= clusters.each_slice(NEIGHBOURS).map { |group| timed { group.map { |index, ranges| @packer.read(index, ranges) } } }
      end

      def timed
        before = Process.clock_gettime(Process::CLOCK_MONOTONIC)
        given = yield
        [Process.clock_gettime(Process::CLOCK_MONOTONIC) - before, given]
      end

      def forecast(level, writes, processes)
        groups = read.map do |reading, data|
          packing, sizes = timed { data.map { |one| one == Capture::ZEROS ? 0 : Packer.packed(one, level).bytesize } }
          [sizes.sum.fdiv(data.size), reading / data.size, packing / data.size]
        end
        sizes, reading, packing = groups.transpose
        stored = range(sizes).zip(tables).map { |size, beside| (size * count).round + beside }
        Forecast.new(level:, stored:, seconds: seconds(range(reading), range(packing), stored, writes, processes))
      end

      # All three go on beside each other: what takes longest is what it takes. At its end come the checksums of the files.
      def seconds(reading, packing, stored, writes, processes)
        low = [reading.first / SPREAD * count, packing.first * count / processes, writes ? stored.first / writes : 0].max
        high = [reading.last * count, packing.last * count / processes, writes ? stored.last / writes : 0].max
        [low + (stored.first * summing), high + (stored.last * summing)]
      end

      # @return [Float] seconds for each byte of SHA256SUMS
      def summing
        @summing ||= begin
          bytes = read.first.last.join
          timed { OpenSSL::Digest::SHA256.digest(bytes) }.first / bytes.bytesize
        end
      end

      # @return [(Float, Float)] around the mean, as wide as the groups differ
      def range(values)
        mean = values.sum / values.size
        return [mean * (1 - LEAST), mean * (1 + LEAST)] if values.one?

        spread = Math.sqrt(values.sum { |value| (value - mean)**2 } / (values.size - 1) / values.size)
        width = [2 * spread, mean * LEAST].max
        [[mean - width, 0].max, mean + width]
      end
    end
  end
end
