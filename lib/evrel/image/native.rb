# frozen_string_literal: true

module Evrel
  module Image
    # An image in our own format: a folder with disk.qcow2, manifest.json,
    # clusters.b3, layout.sfdisk, left-out.csv and SHA256SUMS. Opened read-only.
    class Native
      DISK = 'disk.qcow2'
      MANIFEST = 'manifest.json'
      DIGESTS = 'clusters.b3'
      LAYOUT = 'layout.sfdisk'
      LEFT_OUT = 'left-out.csv'
      SUMS = 'SHA256SUMS'
      SALVAGE = 'salvage.json'

      attr_reader :shelf, :path, :manifest, :disk, :digests

      # @param shelf [Shelf::Folder, Shelf::Web]
      # @param path [String] of the folder on it
      # @return [Boolean] whether the folder looks like an image
      def self.at?(shelf, path)
        shelf.entry("#{path}/#{MANIFEST}") && [DISK, "#{DISK}#{ImageFiles::LOCKED}"].any? { |name| shelf.entry("#{path}/#{name}") }
      end

      # @param shelf [Shelf::Folder, Shelf::Web]
      # @param path [String] of the folder on it
      # @return [Array<String>] paths of its files, open or locked
      def self.files(shelf, path)
        names = [MANIFEST, DISK, DIGESTS, *[DISK, DIGESTS].map { |name| "#{name}#{ImageFiles::LOCKED}" }, LAYOUT, LEFT_OUT, SALVAGE, SUMS]
        names.map { |name| "#{path}/#{name}" }.select { |file| shelf.entry(file) }
      end

      # @param keys [Keys]
      # @raise [Unreadable, Damaged, Unsupported]
      # @raise [Locked] where the passphrase is missing or wrong
      def initialize(shelf, path, keys: Keys.none)
        @shelf = shelf
        @path = path
        @locked = shelf.entry(within(DISK)).nil? && !shelf.entry(within("#{DISK}#{ImageFiles::LOCKED}")).nil?
        missing!
        @manifest = Manifest.parse(shelf.read(within(MANIFEST), Manifest::LARGEST + 1))
        @passphrase = keys.of(manifest.id)
        open_files
        check
        check_below if disk.backing
      rescue Error
        close
        raise
      end

      def format = 'evrel-image'

      # @return [Array<String>] paths of its files
      def members = Native.files(shelf, path)

      # @return [String] path on the shelf of the file that holds the disk
      def disk_path = within(name(DISK))

      # @return [Boolean] whether a passphrase opens it
      def locked? = @locked

      # @param name [String] of one of its files
      # @return [String] path on the shelf
      def within(name) = "#{path}/#{name}"

      # @param index [Integer]
      # @return [String] CLUSTER bytes; safe to call from several threads
      # @raise [Damaged]
      def cluster(index) = disk.cluster(index)

      # As ClustersAtOnce#each_cluster.
      def each_cluster(indexes, &) = disk.each_cluster(indexes, &)

      # @return [Boolean] whether other processes can read it too
      def fork_safe? = disk.fork_safe?

      def close
        @disk&.close
        @digests&.close
      end

      # @return [Table::Gpt, Table::Mbr, nil] the table as the image holds it
      def table = @table ||= (Table.read(disk) if manifest.table?)

      private

      def missing!
        missing = [MANIFEST, name(DISK), name(DIGESTS)].reject { |file| shelf.entry(within(file)) }
        raise Unreadable.new("#{path} lacks #{missing.join(', ')}", where: path) unless missing.empty?
      end

      def open_files
        disk, digests = both
        @digests = Digests.new(digests, within(DIGESTS), count: (manifest.stored_clusters if locked?))
        @disk = Chain.new(shelf, logical_sector: manifest.logical_sector).open(shelf.entry(disk_path), disk)
      end

      # Two passphrases are tried in the time of one.
      # @return [Array<Disk>] the disk and its digests
      def both
        files = [DISK, DIGESTS]
        return files.map { |file| opened(file) } unless locked?

        found = files.map { |file| Thread.new { attempt(file) } }.map(&:value)
        return found if found.none?(Error)

        found.grep(Disk).each(&:close)
        raise found.grep(Error).first
      end

      # @return [Disk, Error]
      def attempt(file)
        opened(file)
      rescue Error => e
        e
      end

      # @return [String] as a file lies in the folder
      def name(file) = @locked ? "#{file}#{ImageFiles::LOCKED}" : file

      # @return [Disk] the bytes of a file, in the clear
      def opened(file)
        source = shelf.open(within(name(file)))
        @locked ? Luks.open(source, @passphrase) : source
      rescue StandardError
        source&.close
        raise
      end

      # What lies below must be what it was: the digests would say so cluster by cluster.
      def check_below
        onto = manifest.onto or raise Damaged.new("#{path} builds on another file, which its manifest does not know", where: path)
        below = Shelf.inside("#{path}/#{onto['path']}/#{MANIFEST}")
        found = Manifest.parse(shelf.read(below, Manifest::LARGEST + 1))
        return if found.id == onto['id']

        raise Damaged.new("#{path} builds on another image than the one that lies in #{::File.dirname(below)}", where: path)
      end

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
