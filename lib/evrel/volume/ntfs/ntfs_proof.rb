# frozen_string_literal: true

module Evrel
  module Volume
    # Holds $Bitmap of an NTFS volume against all that can contradict it: what
    # waits elsewhere to be carried out, the copies of the boot sector and of
    # the first records, and the clusters of every record that is in use.
    class NtfsProof
      MIRRORED = 4 # records of $MFT that $MFTMirr repeats
      RECORDS = 1024 # that are read at once
      # Of the boot sector: sector and cluster size, and from the number of sectors to the serial.
      GEOMETRY = [[11, 3], [40, 40]].freeze

      # @param disk [Disk] the volume
      # @param volume [Ntfs]
      # @param mft [NtfsMft]
      # @param bitmap [NtfsBitmap]
      def initialize(disk, volume, mft, bitmap)
        @disk = disk
        @volume = volume
        @mft = mft
        @bitmap = bitmap
      end

      # @return [Array<String>] what contradicts the bitmap; empty where it is proved
      # @raise [Damaged, Unreadable]
      def doubts = [waiting || wrong_boot || wrong_mirror || wrong_records].compact

      private

      def waiting
        return 'its journal waits to be replayed' if @volume.journal_waits?

        'the system on it is hibernated: what it had in memory counts for more' if @volume.hibernated?
      end

      def wrong_boot
        at = @volume.boot_copies[1] or return
        head = @disk.read(0, 512)
        copy = @disk.read(at, 512)
        'the copy of its boot sector says otherwise' if GEOMETRY.any? { |from, size| head[from, size] != copy[from, size] }
      end

      def wrong_mirror
        at = @volume.boot.mirror_cluster * @volume.block_size
        size = @volume.boot.record_size
        return "the copy of its first records is outside of it, at byte #{at}" if at + (MIRRORED * size) > @disk.size

        number = (0...MIRRORED).find { |index| mended(@disk.read(at + (index * size), size), index) != mended(@mft.bytes(index), index) }
        "record #{number} and its copy in $MFTMirr differ" if number
      end

      # What counts of a record: the update sequence may have gone on in one of the two.
      def mended(bytes, index)
        whole = NtfsRecord.mended(bytes, 'FILE', "MFT record #{index}")
        used, offset, count = whole.unpack('@24V@4vv')
        whole[8, 8] = "\0".b * 8 # $LogFile sequence number
        whole[offset, count * 2] = "\0".b * (count * 2)
        whole.byteslice(0, used)
      end

      def wrong_records
        @mft.each_raw(RECORDS) do |number, bytes|
          unless bytes.start_with?('FILE')
            return "MFT record #{number} is in use and cannot be read" if @mft.claimed?(number)

            next
          end
          next if bytes.getbyte(22).nobits?(NtfsRecord::IN_USE)

          reason = wrong_record(number, bytes)
          return reason if reason
        end
        nil
      end

      def wrong_record(number, bytes)
        NtfsRecord.each_outside(bytes, number) do |one|
          one.runs(@volume.cluster_count).each do |run|
            next if run.lcn.nil? || @bitmap.marked?(run.lcn, run.count)

            return "clusters of MFT record #{number}, at cluster #{run.lcn}, count as free"
          end
        end
        nil
      end
    end
  end
end
