# frozen_string_literal: true

require 'openssl'

module Evrel
  module Image
    # A drive as it is now, to restore from: answers as Foreign does. Nothing of
    # it was kept anywhere, so that nothing can be held against it: what is
    # written is read back against the drive, which is read again for that.
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
      def initialize(disk, uid:, taken_at:, about: {})
        @disk = disk
        @uid = uid
        @taken_at = taken_at
        @about = about
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

      # @return [UsedClusters] without digests: none was ever taken
      def digests = @digests ||= UsedClusters.new(map)

      # @param index [Integer]
      # @return [String] CLUSTER bytes; safe to call from several threads
      # @raise [Unreadable, OutOfRange]
      def cluster(index) = cluster_of(disk, index).ljust(CLUSTER, "\0".b)

      # @return [Boolean] whether a passphrase opens it
      def locked? = false

      # @return [Boolean] whether other processes can read it too
      def fork_safe? = disk.fork_safe?

      def table = map.table
      def close = disk.close
    end
  end
end
