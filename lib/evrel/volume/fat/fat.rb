# frozen_string_literal: true

module Evrel
  module Volume
    # FAT12, FAT16 and FAT32.
    class Fat
      include Tree
      include Mapped
      include BootSectors

      # The number of clusters alone decides the kind (specification, page 14).
      FAT12_BELOW = 4085
      SHRINKABLE = %w[fat16 fat32].freeze # its kinds that a plan may make smaller
      # Sectors of 512 bytes are counted in 32 bits (specification, BPB_TotSec32).
      MOST_SIZE = (1 << 32) * 512
      FAT16_BELOW = 65_525
      # No FAT32 has more clusters than 28 bits can count.
      MOST_CLUSTERS = 0x0FFF_FFF5

      attr_reader :bits, :cluster_size, :cluster_count, :boot, :size

      # @return [Fat, nil]
      def self.recognise(disk)
        return if disk.size < 512

        sector = disk.read(0, 512)
        return unless sector.byteslice(510, 2) == "\x55\xAA".b && plausible?(FatBootSector.read(sector))

        new(disk)
      end

      # A boot sector of another file system has the same last two bytes; these
      # fields together are only right in FAT.
      def self.plausible?(boot)
        per_cluster = boot.sectors_per_cluster
        [512, 1024, 2048, 4096].include?(boot.sector_size) && per_cluster.positive? &&
          per_cluster.nobits?(per_cluster - 1) && boot.reserved_sectors.positive? && boot.fat_count.between?(1, 4) &&
          (boot.fat_sectors_16.positive? || boot.fat_sectors_32.positive?) && boot.media >= 0xF0
      end

      def initialize(disk)
        @disk = disk
        @boot = FatBootSector.read(disk.read(0, 512))
        measure
        @fat = FatTable.new(disk, offset: tables.first.first, bytes: @fat_bytes, bits:, cluster_count:)
      end

      def kind = "fat#{bits}"
      def block_size = cluster_size

      # @return [String, nil] the serial number as "1A2B-3C4D"
      def uuid
        serial = @disk.read(*serial_field).unpack1('V')
        format('%<high>04X-%<low>04X', high: serial >> 16, low: serial & 0xFFFF) unless serial.zero?
      end

      # @return [String, nil] from the root directory: the one in the boot sector is not kept up to date
      def label
        text = directory.volume_label&.encode('UTF-8', 'IBM437', invalid: :replace, undef: :replace)&.strip
        text unless text.to_s.empty?
      end

      def used_clusters = @fat.used_count

      def map = 'the file allocation table'

      # The tables that must be the same, the one that counts first: FAT32 may keep only one of them up to date
      # (specification, page 12: bit 7 of the flags, and its number below).
      # @return [Array<(Integer, Integer)>] byte offset and length of each
      def tables
        all = Array.new(boot.fat_count) { |index| [(boot.reserved_sectors * @sector) + (index * @fat_bytes), @fat_bytes] }
        bits == 32 && boot.flags.anybits?(0x80) ? [all[boot.flags & 0x0F] || all.first] : all
      end

      # @return [String, nil] the sector with the counters of FAT32
      def info
        at = boot.info_sector * @sector if bits == 32
        @disk.read(at, 512) if at&.positive? && boot.info_sector < boot.reserved_sectors
      end

      # @return [Array<Integer>] bytes at which its boot sector and the copy of that lie (FAT32 names it)
      def boot_copies
        spare = boot.backup_sector if bits == 32
        [0, *(spare * boot.sector_size if spare&.between?(1, boot.reserved_sectors - 1))]
      end

      # Whether it was unmounted in order, and without errors: FAT entry 1 says so (specification, page 18), and so
      # does a byte of the boot sector (37 of FAT12 and FAT16, 65 of FAT32; <linux/msdos_fs.h>, FAT_STATE_DIRTY).
      def clean?
        return false if @disk.read(bits == 32 ? 65 : 37, 1).ord.anybits?(0x3)

        case bits
        when 16 then @fat[1].allbits?(0xC000)
        when 32 then @fat[1].allbits?(0x0C00_0000)
        else true
        end
      end

      # Extended boot record: serial number at 39 of FAT12/16, at 67 of FAT32; all in front of 62 or 90 describes the
      # volume (specification, pages 9 to 12).
      # @return [Array<(Integer, Integer)>] byte of the boot sector, and length
      def serial_field = [bits == 32 ? 67 : 39, 4]
      def boot_record = [3...(bits == 32 ? 90 : 62), 1]

      def resizer = bits == 12 ? nil : FatResizer
      def judge = ['fsck.vfat -n', %w[fsck.vfat -n]]
      def editor(path) = FatEditor.new(path, self)
      def content_extents(entry) = file_extents(entry).to_a

      # The number of clusters decides the kind: it is kept, and so are clusters
      # of the same size.
      def least_size
        clusters = [used_bytes / cluster_size, bits == 32 ? FAT16_BELOW : FAT12_BELOW].max + 64
        tables = (clusters + 2) * bits / 8 * 2
        most = bits == 32 ? [MOST_SIZE, MOST_CLUSTERS * cluster_size].min : (FAT16_BELOW - 64) * cluster_size
        least = (clusters * cluster_size) + tables + (128 * KIB)
        # The files are written anew: their directories may take a cluster more.
        Limits.new(least: [least + (least / 100), size].min, most: [most, size].max, resizer:)
      end

      # @api private — for FatProof: of a directory by its first cluster, 0 of the fixed root
      def claims_of(cluster) = FatDirectory.new(self, Entry.new(path: "cluster #{cluster}", ref: cluster)).claims

      # @api private — for FatDirectory
      def cluster_chain(first) = @fat.chain(first)

      # @api private — for FatDirectory
      def read_cluster(number) = @disk.read(@data_offset + ((number - 2) * cluster_size), cluster_size)

      # @api private — the fixed root directory of FAT12 and FAT16
      def fixed_root = @disk.read(@root_offset, @root_bytes)

      private

      def find_doubts = FatProof.new(@disk, self, @fat).doubts

      # Everything before the first cluster, and each allocated cluster.
      def mapped_extents(&block)
        return enum_for(:mapped_extents) unless block

        yield 0, @data_offset
        Runs.merged(@fat.each_used_run, cluster_size, @data_offset - (2 * cluster_size), &block)
      end

      def measure
        @sector = boot.sector_size.to_i
        @cluster_size = boot.sectors_per_cluster * @sector
        @size = (boot.sectors_16.zero? ? boot.sectors_32 : boot.sectors_16) * @sector
        place_areas
        check_size
        @cluster_count = (size - @data_offset) / cluster_size
        @bits = kind_by_clusters
        check_fat
      end

      # Reserved sectors, the tables, the fixed root directory, the clusters.
      def place_areas
        @fat_bytes = (boot.fat_sectors_16.zero? ? boot.fat_sectors_32 : boot.fat_sectors_16) * @sector
        @root_offset = (boot.reserved_sectors * @sector) + (boot.fat_count * @fat_bytes)
        @root_bytes = ((boot.root_entries * 32) + @sector - 1) / @sector * @sector
        @data_offset = @root_offset + @root_bytes
      end

      def check_size
        return if @data_offset < size && size <= @disk.size

        raise Damaged.new("FAT volume of #{size} bytes, data from byte #{@data_offset}, in #{@disk.size} bytes",
                          where: 'boot sector')
      end

      def kind_by_clusters
        return 32 if boot.fat_sectors_16.zero?

        cluster_count < FAT12_BELOW ? 12 : 16
      end

      def check_fat
        most = { 12 => FAT12_BELOW, 16 => FAT16_BELOW, 32 => MOST_CLUSTERS }[bits]
        return if cluster_count < most && (cluster_count + 2) * bits <= @fat_bytes * 8

        raise Damaged.new("#{cluster_count} clusters do not fit into a FAT#{bits} of #{@fat_bytes} bytes",
                          where: 'boot sector')
      end

      def root_entry
        Entry.new(name: '/', path: '/', type: :directory, size: 0, ref: bits == 32 ? boot.root_cluster.to_i : 0)
      end

      def directory(entry = root_entry) = FatDirectory.new(self, entry)

      def children(entry) = directory(entry).entries

      def file_pieces(entry)
        left = entry.size
        return if left.zero?

        cluster_chain(entry.ref).each do |cluster|
          yield read_cluster(cluster).byteslice(0, left)
          left -= cluster_size
          break if left <= 0
        end
        raise Damaged.new("#{entry.path} ends #{left} bytes early", where: entry.path) if left.positive?
      end

      def extents_of(entry)
        return if entry.ref.zero?

        Runs.merged(cluster_chain(entry.ref).lazy.map do |cluster|
          [cluster, 1]
        end, cluster_size, @data_offset - (2 * cluster_size)) do |*extent|
          yield(*extent)
        end
      end

      def same_name?(one, two) = one.casecmp?(two)
    end
  end
end
