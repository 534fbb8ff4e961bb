# frozen_string_literal: true

require 'openssl'

module Evrel
  module Image
    # A drive as it is now, to restore from: answers as Foreign does. Nothing of
    # it was kept before. Where its digests are taken on the way, what is written
    # is held against those; else against the drive, which is read again for that.
    class Live
      FORMAT = 'drive'
      # After a cluster that cannot be read so many are left for later, then twice as many, and so on.
      LEAP = 16
      LONGEST_LEAP = 1024

      attr_reader :disk, :uid

      # @param key [String] of the drive (Identity.key)
      # @param fingerprint [String] of what is on it (Identity.fingerprint)
      # @return [String] identity of the drive with just these contents, in the shape of a UUID
      def self.uid(key, fingerprint)
        ::OpenSSL::Digest::SHA256.hexdigest("#{key} #{fingerprint}")[0, 32].sub(/\A(.{8})(.{4})(.{4})(.{4})(.{12})\z/, '\1-\2-\3-\4-\5')
      end

      # @param disk [Disk] opened read-only; closed with it
      # @param uid [String] as Live.uid gives it
      # @param taken_at [Time] as of when it is told
      # @param about [Hash] "computer" and "drive", as in a manifest
      # @param document [Document, nil] what is known of it already, for a look at it: else its maps are read for that
      def initialize(disk, uid:, taken_at:, about: {}, document: nil)
        @disk = disk
        @uid = uid
        @taken_at = taken_at
        @about = about
        @manifest = document
      end

      def format = FORMAT

      # @return [Array<String>] it is made of no files
      def members = []

      # @return [UsedMap]
      # @raise [Damaged]
      def map = @map ||= UsedMap.new(disk)

      # @return [Document]
      def manifest
        @manifest ||= Learnt.of_drive(disk, uid:, taken_at: @taken_at, about: @about, map:)
      end

      # From now on the digest of what is read first is kept, and what is read later is held against it.
      # @param first [FirstRead] closed with it
      def keep_digests(first)
        @digests = nil
        @first = first
      end

      # @return [UsedClusters] with digests as far as some were kept
      def digests = @digests ||= UsedClusters.new(map, @first)

      # From now on what the drive did not give is left for later (see Restore::Leftover), and what was read of that since comes
      # from there.
      # @param map [Salvage::Map]
      # @param salvaged [Disk] what was read, where the map says so
      def salvage_into(map, salvaged)
        @map_of_rest = map
        @salvaged = salvaged
        @later = Set.new
      end

      # @return [Boolean] whether one write has it for itself, and may leave something for later
      def goes_back? = true

      # What was left for later has had its turn.
      def settle = @later.clear

      # @param index [Integer]
      # @return [Boolean] whether the cluster was not given, and its turn has not come
      def later?(index) = !@later.nil? && (@later.include?(index) || states(index).include?(:skipped))

      # @param index [Integer]
      # @return [String] CLUSTER bytes; safe to call from several threads
      # @raise [Unreadable, OutOfRange]
      def cluster(index) = given(index, ''.b)

      # As ClustersAtOnce#each_cluster, into one string again and again, and in leaps over what cannot be read where that is left for later.
      def each_cluster(indexes)
        buffer = Thread.current[:evrel_live] ||= ''.b
        leap = LEAP
        over = 0
        indexes.each do |index|
          data = index < over ? leave(index) : given_or_left(index, buffer)
          if data
            leap = LEAP
          elsif @later && index >= over
            over = index + leap
            leap = [leap * 2, LONGEST_LEAP].min
          end
          yield index, data
        end
      end

      # What is left of a cluster that cannot be read as a whole: zeros stand for the sectors that cannot.
      # @param index [Integer]
      # @return [String, nil] CLUSTER bytes; nil where it can be read
      # @raise [Away]
      def rest_of(index)
        cluster(index) && nil
      rescue Unreadable => e
        raise if e.is_a?(Away)

        around(index).first.tap { |data| @first&.add(index, data) }
      end

      # @param index [Integer]
      # @return [Array<(Integer, Integer)>] byte offset on the disk and length of each place in the cluster that cannot be read
      # @raise [Away]
      def missing(index) = around(index).last

      # @return [Boolean] whether a passphrase opens it
      def locked? = false

      # @return [Boolean] whether other processes can read it too
      def fork_safe? = disk.fork_safe?

      def table = map.table

      def close
        @first&.close
        disk.close
      end

      private

      # @return [nil]
      def leave(index) = @later&.add(index) && nil

      # @return [String] the buffer
      def given(index, buffer)
        offset = index * CLUSTER
        raise OutOfRange.new("cluster #{index} is outside of the drive", where: "cluster #{index}") if offset >= disk.size

        (salvage_of(index) || disk).read_into(buffer, offset, [CLUSTER, disk.size - offset].min)
        buffer << ("\0".b * (CLUSTER - buffer.bytesize)) if buffer.bytesize < CLUSTER
        @first&.add(index, buffer)
        buffer
      end

      def given_or_left(index, buffer)
        given(index, buffer)
      rescue Away
        raise if @later
      rescue Unreadable
        leave(index)
      rescue OutOfRange
        nil
      end

      # @return [Array<Symbol>] of the places of a cluster; none where nothing is left for later
      def states(index)
        return [] unless @map_of_rest

        offset = index * CLUSTER
        @map_of_rest.within(offset, [CLUSTER, disk.size - offset].min).map(&:last)
      end

      # @return [Disk, nil] nil where the drive was not asked yet, or gave it
      # @raise [Lost] the drive is not asked again for what it did not give
      def salvage_of(index)
        return if @map_of_rest.nil? || states(index).all?(:left)

        lost, = not_salvaged(index).first
        raise Lost.new('sectors of it cannot be read, however they are asked for', where: "byte #{lost}") if lost

        @salvaged
      end

      # @return [(String, Array<(Integer, Integer)>)] what can be had of a cluster, and what cannot
      def around(index)
        return around_in_salvage(index) unless states(index).all?(:left)

        unread = Unread.new(disk, tolerant: true)
        offset = index * CLUSTER
        [unread.read(offset, [CLUSTER, disk.size - offset].min).ljust(CLUSTER, "\0".b), unread.ranges]
      end

      # Nothing but zeros stands where nothing was read.
      def around_in_salvage(index)
        offset = index * CLUSTER
        [@salvaged.read(offset, [CLUSTER, disk.size - offset].min).ljust(CLUSTER, "\0".b), not_salvaged(index)]
      end

      # @return [Array<(Integer, Integer)>] byte offset and length of each place that the drive has not given
      def not_salvaged(index)
        offset = index * CLUSTER
        @map_of_rest.within(offset, [CLUSTER, disk.size - offset].min).reject { |_, _, state| state == :read }
                    .map { |from, bytes,| [from, bytes] }
      end
    end
  end
end
