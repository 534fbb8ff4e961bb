# frozen_string_literal: true

require 'openssl'

module Evrel
  module Image
    # A drive as it is now, to restore from: answers as Foreign does. Nothing of
    # it was kept before. Where its digests are taken on the way, what is written
    # is held against those; else against the drive, which is read again for that.
    class Live
      include OneByOne

      FORMAT = 'drive'

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

      # @param index [Integer]
      # @return [String] CLUSTER bytes; safe to call from several threads
      # @raise [Unreadable, OutOfRange]
      def cluster(index)
        data = cluster_of(disk, index).ljust(CLUSTER, "\0".b)
        @first&.add(index, data)
        data
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

      def around(index)
        unread = Unread.new(disk, tolerant: true)
        offset = index * CLUSTER
        [unread.read(offset, [CLUSTER, disk.size - offset].min).ljust(CLUSTER, "\0".b), unread.ranges]
      end
    end
  end
end
