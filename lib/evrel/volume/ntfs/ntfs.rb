# frozen_string_literal: true

module Evrel
  module Volume
    # NTFS. On-disk facts are from layout.h of ntfs-3g.
    class Ntfs
      include Tree
      include Mapped
      include BootSectors

      SECTORS = [512, 1024, 2048, 4096].freeze
      VOLUME_RECORD = 3
      ROOT_RECORD = 5
      LOG_RECORD = 2
      BITMAP_RECORD = 6
      FIRST_USER_RECORD = 24 # records below it are the file system's own
      DIRTY = 0x1
      # From 1601 to 1970, in units of 100 ns.
      EPOCH = 116_444_736_000_000_000
      LARGEST_CLUSTER = 2 * MIB
      HIBERNATION = '/hiberfil.sys'
      ENCRYPTED = 'encrypted by its owner'
      MOST_CLUSTERS = (1 << 32) - 1
      SHRINKABLE = %w[ntfs].freeze # its kinds that a plan may make smaller

      # @return [Ntfs, nil]
      # @raise [Damaged]
      def self.recognise(disk)
        return if disk.size < 512 || disk.read(3, 8) != NtfsBootSector::SIGNATURE

        new(disk)
      end

      # @param value [Integer] 100 ns since 1601
      # @return [Time, nil]
      def self.time(value) = value.zero? ? nil : Time.at(Rational(value - EPOCH, 10**7))

      attr_reader :boot, :block_size

      def initialize(disk)
        @disk = disk
        @boot = NtfsBootSector.read(disk.read(0, 512))
        check_boot
        @block_size = boot.cluster_size
        @mft = NtfsMft.new(disk, boot)
      end

      def kind = 'ntfs'

      # @return [Integer] bytes, with the copy of the boot sector behind the last cluster
      def size = (boot.sector_count + 1) * boot.sector_size

      # @return [String, nil] the serial number
      def uuid = boot.serial.zero? ? nil : format('%016X', boot.serial)

      # @return [Array<Integer>] bytes at which its boot sector and copies of that lie: behind the sectors that it counts,
      #   and in the last sector of its partition, where a volume that was resized has it
      def boot_copies
        sector = boot.sector_size.to_i
        behind = [boot.sector_count * sector, (@disk.size / sector * sector) - sector].uniq
        [0, *behind.select { |at| at.between?(sector, @disk.size - sector) && @disk.read(at + 3, 8) == NtfsBootSector::SIGNATURE }]
      end

      def label
        found = @mft.resident(@mft.record(VOLUME_RECORD), NtfsAttribute::VOLUME_NAME)
        text = Utf16.text(found&.value)
        text unless text.empty?
      end

      # @return [Boolean] whether it was unmounted in order, and nothing waits to be carried out
      def clean? = !dirty? && !journal_waits? && !hibernated?

      # @return [Boolean] whether $LogFile holds what was not carried out yet
      # @raise [Damaged, Unreadable]
      def journal_waits? = NtfsLog.waits?(@mft.stream(@mft.record(LOG_RECORD), NtfsAttribute::DATA))

      # The memory of a system that sleeps lies in a file whose head says so; it is emptied when the system wakes.
      # @return [Boolean]
      def hibernated?
        found = entry(HIBERNATION)
        found.file? && found.size >= 4 && read_head(found).start_with?('hibr', 'HIBR')
      rescue NotFound
        false
      end

      def map = '$Bitmap'
      def cluster_count = @cluster_count ||= boot.sector_count * boot.sector_size / block_size

      # @return [Integer] bytes in use, as its own map counts them; all of them where that cannot be read
      def used_bytes
        used_clusters * block_size
      rescue BadPlace
        size
      end

      def used_clusters = @used_clusters ||= bitmap.each_run.sum { |_, count| count }

      # Serial number as mkntfs writes it; in front of 84 stands what describes the volume, and 16 sectors hold code.
      # @return [Array<(Integer, Integer)>] byte of the boot sector, and length
      def serial_field = [72, 8]
      def boot_record = [3...84, 16]

      def resizer = NtfsResizer
      def judge = ['ntfsresize -i', %w[ntfsresize -i -f]]
      def editor(path) = NtfsEditor.new(path, self)

      # All that ntfsresize(8) cannot move is at its place from the start; what
      # it moves needs room of its own while it is moved: a hundredth on top.
      def least_size
        return Limits.fixed(size, "it keeps its size: #{waits_for}") unless clean?

        least = used_bytes + (used_bytes / 100) + (4 * MIB)
        Limits.new(least: [least, size].min, most: MOST_CLUSTERS * block_size, resizer:)
      end

      private

      def doubts_say(doubts) = clean? ? super : waits_for

      # Nothing here carries out what waits in an NTFS: only its own system does.
      def waits_for
        return 'the system on it is hibernated: start it, and shut it down wholly (not into sleep)' if hibernated?
        return 'its journal waits: start its own system, and shut it down in order' if journal_waits?

        'it asks for a check: start its own system, and let it check this volume'
      end

      # VOLUME_INFORMATION: flags at offset 10.
      def dirty?
        found = @mft.resident(@mft.record(VOLUME_RECORD), NtfsAttribute::VOLUME_INFORMATION)
        found.nil? || found.value.unpack1('@10v').to_i.anybits?(DIRTY)
      end

      def read_head(file)
        file_pieces(file) { |bytes| return bytes }
        ''
      end

      def bitmap = @bitmap ||= NtfsBitmap.new(@mft.stream(@mft.record(BITMAP_RECORD), NtfsAttribute::DATA), cluster_count)
      def find_doubts = NtfsProof.new(@disk, self, @mft, bitmap).doubts

      # The copy of the boot sector lies behind the last cluster.
      def mapped_extents(&block)
        return enum_for(:mapped_extents) unless block

        Runs.merged(bitmap.each_run, block_size, &block)
        copy = boot.sector_count * boot.sector_size
        yield copy, boot.sector_size.to_i if copy + boot.sector_size <= @disk.size
      end

      def check_boot
        check_sizes
        return if (boot.sector_count * boot.sector_size).between?(boot.cluster_size, @disk.size) &&
                  boot.mft_cluster.between?(1, cluster_total - 1)

        raise damaged("#{boot.sector_count} sectors in #{@disk.size} bytes, MFT at cluster #{boot.mft_cluster}")
      end

      def check_sizes
        sizes = [boot.record_size, boot.index_size]
        return if SECTORS.include?(boot.sector_size.to_i) && boot.sectors_per_cluster.positive? &&
                  boot.cluster_size.between?(512, LARGEST_CLUSTER) && power_of_two?(boot.cluster_size) &&
                  sizes.all? { |size| size.between?(512, 65_536) && power_of_two?(size) }

        raise damaged("clusters of #{boot.cluster_size} and records of #{sizes.join(' and ')} bytes")
      end

      def cluster_total = boot.sector_count * boot.sector_size / boot.cluster_size
      def power_of_two?(number) = number.nobits?(number - 1)
      def damaged(message) = Damaged.new("NTFS boot sector: #{message}", where: 'boot sector')

      def root_entry = Entry.new(name: '/', path: '/', type: :directory, size: 0, ref: ROOT_RECORD)

      def children(entry)
        record = @mft.follow(entry.ref)
        raise Damaged.new("#{entry.path} is no directory", where: entry.path) unless record.directory?

        NtfsDirectory.new(@mft, record, boot.index_size, entry.path).names.filter_map { |found| child(entry, found) }
      end

      def child(parent, found)
        return if (found.reference & 0xFFFF_FFFF_FFFF) < FIRST_USER_RECORD

        type = if found.tag && (found.directory || NtfsReparse.link?(found.tag)) then :other
               else found.directory ? :directory : :file
               end
        Entry.new(name: found.name, path: child_path(parent, found.name), type:, size: type == :file ? found.size : 0,
                  modified_at: found.modified_at, ref: found.reference, note: note(found))
      end

      def note(found)
        return NtfsReparse.note(found.tag) if found.tag

        ENCRYPTED if found.encrypted && !found.directory
      end

      def file_pieces(entry, &) = contents(entry)&.each_piece(&)

      # @return [NtfsStream, NtfsSystemCompressed, nil] nil where the file has no contents
      def contents(entry)
        record = @mft.follow(entry.ref)
        reparse = @mft.stream(record, NtfsAttribute::REPARSE_POINT)
        reparse ? elsewhere(record, reparse.read(0, [reparse.size, 64].min)) : @mft.stream(record, NtfsAttribute::DATA)
      rescue Damaged, Unsupported => e
        raise e.class.new("#{entry.path}: #{e.message}", where: entry.path)
      end

      # Contents that lie in a way that is not known here: the zeros in their place would be a lie.
      def elsewhere(record, reparse)
        tag = reparse.unpack1('V').to_i
        if (words = NtfsReparse.note(tag))
          raise Unsupported, "it is #{words}"
        end

        packed = @mft.stream(record, NtfsAttribute::DATA, NtfsSystemCompressed::STREAM)
        NtfsSystemCompressed.new(packed, @mft.stream(record, NtfsAttribute::DATA)&.size.to_i, reparse)
      end

      def same_name?(one, two) = one.casecmp?(two)

      def extents_of(entry)
        number = entry.ref & 0xFFFF_FFFF_FFFF
        yield(*@mft.place(number))
        contents(entry)&.runs&.each { |run| yield run.lcn * block_size, run.count * block_size if run.lcn }
      end
    end
  end
end
