# frozen_string_literal: true

require 'openssl'

module Evrel
  module Volume
    # FAT cannot be resized in place by a tool that is well kept: the volume is
    # made anew by mkfs.vfat(8) with the same serial number, name and code, the
    # files are copied by mcopy(1), and every one is compared.
    class FatResizer < Resizer
      # What mtools calls the two volumes.
      # Clusters that the tables and reserved sectors take at most, for a FAT32 of the least size.
      SPARE = 1200
      DRIVES = { from: 'm', to: 'n' }.freeze

      # A FAT32 has a least number of clusters: with larger sectors a small one becomes a FAT16.
      # @param bits [Integer] of the old volume
      # @param cluster [Integer] bytes of its clusters
      # @param size [Integer] bytes of the new one
      # @param sector [Integer] bytes
      # @return [Integer] of the new one
      def self.bits(bits, cluster, size, sector)
        size / [cluster, sector].max < Fat::FAT16_BELOW + SPARE ? [bits, 16].min : bits
      end

      def self.how(change, least_sector:, sector:, **) = change.zero? && least_sector >= sector ? :copy : :remake
      def self.any_sector? = true

      def resize(size, sector:)
        made = "#{@path}.new"
        FileUtils.rm_f(made)
        Disk::File.create(made, size)
        opened(@path) do |old, disk|
          make(old, made, [sector, old.boot.sector_size.to_i].max)
          copy_files(old, made)
          keep_code(old, disk, made)
          compare(old, made)
        end
        ::File.rename(made, @path)
      ensure
        FileUtils.rm_f(made)
      end

      private

      def opened(path)
        Disk::File.open(path) { |disk| yield Fat.recognise(disk) || raise(Damaged.new('it is no FAT volume', where: path)), disk }
      end

      def make(old, made, sector)
        bits = FatResizer.bits(old.bits, old.cluster_size, ::File.size(made), sector)
        reserved = ['-R', old.boot.reserved_sectors.to_s] if bits == 32 && sector == old.boot.sector_size
        label = ['-n', old.label] if old.label
        @tool.run('mkfs.vfat', '--invariant', '-F', bits.to_s, '-S', sector.to_s, '-s', [old.cluster_size / sector, 1].max.to_s,
                  '-i', old.uuid.delete('-'), '-f', old.boot.fat_count.to_s, *reserved, *label, made, files: [made])
      end

      def copy_files(old, made)
        return if old.entries('/').empty?

        Tempfile.create('evrel-mtools') do |file|
          file.write("mtools_skip_check=1\n", "drive #{DRIVES[:from]}: file=\"#{@path}\"\n", "drive #{DRIVES[:to]}: file=\"#{made}\"\n")
          file.flush
          @tool.run('mcopy', '-s', '-p', '-m', '-n', '-Q', "#{DRIVES[:from]}:/*", "#{DRIVES[:to]}:/",
                    environment: { 'MTOOLSRC' => file.path }, files: [made, file.path])
        end
      end

      # The code in the boot sector behind its fields (offset 62, 90 on FAT32;
      # specification, pages 9 to 12), and what lies in the reserved sectors that FAT32 leaves to loaders.
      def keep_code(old, from, made)
        code = old.bits == 32 ? 90 : 62
        sector = old.boot.sector_size.to_i
        Disk::File.open(made, writable: true) do |to|
          opened(made) do |new, _|
            next unless new.bits == old.bits

            [0, (new.boot.backup_sector * new.boot.sector_size if old.bits == 32)].compact.uniq.each do |at|
              to.write(at, from.read(0, 3))
              to.write(at + code, from.read(code, 510 - code))
            end
            keep_reserved(old, from, to, sector) if old.bits == 32 && new.boot.reserved_sectors == old.boot.reserved_sectors &&
                                                    new.boot.sector_size == sector
          end
        end
      end

      # All but the boot sector, the count of free clusters, and the copies of both.
      def keep_reserved(old, from, to, sector)
        backup = old.boot.backup_sector
        (2...old.boot.reserved_sectors).each do |number|
          next if [backup, backup + 1, old.boot.info_sector].include?(number)

          to.write(number * sector, from.read(number * sector, sector))
        end
      end

      def compare(old, made)
        opened(made) do |new, _|
          before = contents(old)
          after = contents(new)
          next if before == after

          lost = (before.to_a - after.to_a).first&.first || (after.keys - before.keys).first
          raise Mismatch.new("#{lost} did not come over as it was", where: lost, hint: 'leave the part at its size')
        end
      end

      # @return [Hash] path → digest, nil of a directory
      def contents(volume)
        volume.each_entry.to_h do |entry|
          [entry.path, (digest(volume, entry) if entry.type == :file)]
        end
      end

      def digest(volume, entry)
        sha = OpenSSL::Digest.new('SHA256')
        volume.read_entry(entry) { |piece| sha << piece }
        sha.digest
      end
    end
  end
end
