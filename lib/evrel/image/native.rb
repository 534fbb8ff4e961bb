# frozen_string_literal: true

module Evrel
  module Image
    # An image in our own format: a folder with disk.qcow2, manifest.json,
    # clusters.b3, layout.sfdisk and SHA256SUMS. Opened read-only.
    class Native
      DISK = 'disk.qcow2'
      MANIFEST = 'manifest.json'
      DIGESTS = 'clusters.b3'
      LAYOUT = 'layout.sfdisk'
      SUMS = 'SHA256SUMS'

      attr_reader :path, :manifest, :disk, :digests

      # @return [Boolean] whether the folder looks like an image
      def self.at?(path) = ::File.file?(::File.join(path, MANIFEST)) && ::File.file?(::File.join(path, DISK))

      # @raise [Unreadable, Damaged, Unsupported]
      def initialize(path)
        @path = path
        missing = [MANIFEST, DISK, DIGESTS].reject { |name| ::File.file?(::File.join(path, name)) }
        raise Unreadable.new("#{path} lacks #{missing.join(', ')}", where: path) unless missing.empty?

        @manifest = Manifest.load(::File.join(path, MANIFEST))
        @disk = Qcow2.new(::File.join(path, DISK), logical_sector: manifest.logical_sector)
        @digests = Digests.new(::File.join(path, DIGESTS))
        check
      end

      def close
        disk.close
        digests.close
      end

      # @return [Table::Gpt, nil] the table as the image holds it
      def table = @table ||= Table.read(disk)

      private

      def check
        unless disk.size == manifest.size && disk.cluster_size == CLUSTER
          raise Damaged.new("#{path}: the disk has #{disk.size} bytes, its manifest says #{manifest.size}", where: path)
        end
        return if digests.count == manifest.stored_clusters

        raise Damaged.new("#{path}: #{digests.count} digests for #{manifest.stored_clusters} clusters", where: path)
      end
    end
  end
end
