# frozen_string_literal: true

module Evrel
  module Image
    # An image in another open format: answers as Native does. It has no
    # manifest: what can be known is learnt from what is in it.
    class Foreign
      include OneByOne

      attr_reader :shelf, :path, :format, :disk, :uid, :findings

      # @param shelf [Shelf::Folder, Shelf::Web]
      # @param path [String] of its first file
      # @param disk [Disk]
      # @param members [Array<Shelf::Entry>] all its files
      # @param kept [Kept, nil] where its digests lie, if it was checked before
      # @param locked [Boolean] whether a passphrase opened it
      def initialize(shelf, path, format:, disk:, members:, uid:, findings: [], kept: nil, locked: false)
        @shelf = shelf
        @path = path
        @format = format
        @disk = disk
        @entries = members
        @uid = uid
        @findings = findings
        @kept = kept
        @locked = locked
        @lock = Mutex.new
      end

      # @return [Array<String>] paths of its files
      def members = @entries.map(&:path)

      def locked? = @locked

      # @return [UsedMap]
      # @raise [Damaged]
      def map = @map ||= UsedMap.new(disk)

      # @return [Document]
      def manifest
        @manifest ||= Learnt.document(disk, format:, uid:, members: @entries, findings:, map:, clusters: digests.count, locked: @locked)
      end

      # @return [Digests, UsedClusters] the second where it was never checked
      def digests
        @digests ||= (file = @kept&.digests(uid)) ? Digests.new(Disk::File.open(file, logical_sector: 1), file) : UsedClusters.new(map)
      end

      # @param index [Integer]
      # @return [String] CLUSTER bytes; safe to call from several threads
      # @raise [Damaged, OutOfRange]
      def cluster(index) = cluster_of(disk, index).ljust(CLUSTER, "\0".b)

      # @return [Boolean] whether other processes can read it too
      def fork_safe? = disk.fork_safe?

      def table = map.table

      def close
        @digests&.close
        disk.close
      end
    end
  end
end
