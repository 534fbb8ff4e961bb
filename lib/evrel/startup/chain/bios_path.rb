# frozen_string_literal: true

module Evrel
  module Startup
    # The way of a BIOS: the code in the first sector, and then either GRUB's
    # core in the gap behind it, or the record of the active partition.
    class BiosPath
      CODE = 440 # bytes of code in the first sector, in front of the disk's signature
      ENDING = "\x55\xAA".b
      # Bytes of a volume's first sector: code from here on; where the volume lies on the disk.
      RECORD_CODE = 0x5A
      HIDDEN_SECTORS = 0x1C

      # @param walk [Walk]
      def initialize(walk)
        @walk = walk
      end

      # @return [Choice, BootStore] what is started
      def take
        @sector = @walk.disk.read(0, 512)
        signature
        table
        code
        grub? ? by_core : by_active
      end

      private

      def grub? = GrubCore.boots?(@sector)

      def signature
        return if @sector.byteslice(510, 2) == ENDING

        @walk.broken('boot-signature', 'The first sector is not marked as one to start from',
                     "It ends in #{hex(@sector.byteslice(510, 2))} instead of 55 AA", 'sector 0, byte 510',
                     remedy: 'Put the mark back', mend: 'boot-signature')
      end

      def table
        @walk.table = Table.read(@walk.disk)
        @walk.broken('table', 'No partition table', 'There is nothing to start from', 'sector 0') unless @walk.table
        @walk.places = Places.new(@walk.disk, @walk.table)
        parts = @walk.table.partitions.size
        @walk.ok('table', "#{@walk.table.kind.upcase} with #{parts} part#{'s' if parts != 1}", 'Its entries lie on the disk',
                 'sector 0, bytes 446 to 509')
      rescue Damaged => e
        @walk.broken('table', 'The partition table cannot be used', e.message, e.where)
      end

      def code
        if @sector.byteslice(0, CODE).delete("\0").empty?
          @walk.broken('boot-code', 'No code in the first sector', 'The firmware has nothing to run', 'sector 0, bytes 0 to 439',
                       remedy: 'Write the code of the image back', mend: 'boot-code')
        end
        word = grub? ? 'GRUB: it goes on in its core' : 'It is not known here: such code goes on in the active partition'
        @walk.ok('boot-code', 'Code in the first sector', word, 'sector 0, bytes 0 to 439')
      end

      def by_core
        core
        GrubSteps.new(@walk).take(*prefix)
      end

      def core
        @core = GrubCore.new(@walk.disk)
        unless @core.there? && @core.listed?
          @walk.broken(
            'core', 'GRUB’s core is not where its code looks for it',
            "Sector #{@core.first} does not hold its beginning, or a wrong list of blocks",
            "sector 0, byte 92; sector #{@core.first}, byte 500",
            remedy: 'Write the core of the image back', mend: 'core'
          )
        end
        gap = @walk.table.partitions.map(&:start).min || @walk.disk.size
        place = @core.within?(0, gap) ? 'in the gap in front of the first partition' : 'outside of the gap'
        @walk.ok('core', 'GRUB’s core is there', "#{@core.sectors} sectors #{place}", "sector #{@core.first}")
        several_active
      end

      # GRUB does not ask for it, but some firmware does.
      def several_active
        active = actives
        return if active.size < 2 || @walk.table.kind != 'mbr'

        @walk.ask('active', "#{active.size} partitions are active", 'Some firmware refuses to start from such a disk', 'sector 0, byte 446',
                  remedy: "Leave only partition #{active.first.number} active", mend: 'active', about: { number: active.first.number })
      end

      # @return [(Table::Partition, String, GrubModules)] where GRUB's own files are
      def prefix
        modules = @core.modules
        unless modules&.prefix
          @walk.unknown(
            'prefix', 'Where GRUB’s files lie cannot be read', 'Its core is packed in a way that is not known here: use the trial start',
            "sector #{@core.first}"
          )
        end
        device, path = modules.place
        part = device && @walk.places.by_device(device)
        GrubSteps.new(@walk).no_prefix(device) if part.nil? && modules.config.nil?
        [part, path, modules]
      end

      def actives = @walk.table.partitions.select(&:active?)

      def by_active
        active = actives
        none_active if active.empty?
        too_many(active) if active.size > 1
        part = active.first
        @walk.ok('active', "Partition #{part.number} is active", @walk.places.word(part),
                 "sector 0, byte #{446 + ((part.number - 1) * 16)}", part: part.number)
        record(part)
        inside(part)
      end

      def none_active
        part = @walk.table.partitions.find { |one| one.number <= 4 && startable?(one) } || @walk.table.partitions.first
        @walk.broken(
          'active', 'No partition is active', 'The code in the first sector does not know where to go on',
          'sector 0, bytes 446, 462, 478, 494',
          remedy: "Make partition #{part&.number} active", mend: 'active', about: { number: part&.number }
        )
      end

      def too_many(active)
        part = active.find { |one| startable?(one) } || active.first
        @walk.broken('active', "#{active.size} partitions are active", 'The code in the first sector gives up where that is so',
                     'sector 0, bytes 446, 462, 478, 494', remedy: "Leave only partition #{part.number} active", mend: 'active',
                                                           about: { number: part.number })
      end

      def startable?(part) = boot_record?(part.window(@walk.disk).read(0, 512))
      def boot_record?(sector) = sector.byteslice(510, 2) == ENDING && !sector.byteslice(RECORD_CODE, 300).delete("\0").empty?

      def record(part)
        sector = part.window(@walk.disk).read(0, 512)
        unless boot_record?(sector)
          @walk.broken(
            'boot-record', 'The active partition has no boot record', 'Its first sector holds no code to run',
            "partition #{part.number}, sector 0",
            part: part.number, remedy: 'Write the boot record of the image back', mend: 'boot-record', about: { number: part.number }
          )
        end
        hidden = sector.byteslice(HIDDEN_SECTORS, 4).unpack1('V')
        return hidden_wrong(part, hidden) if knows_place?(part) && hidden != part.first_lba

        @walk.ok('boot-record', 'Its boot record is there', 'It knows where the partition lies',
                 "partition #{part.number}, sector 0, byte 28", part: part.number)
      end

      # Only FAT and NTFS say there where they lie.
      def knows_place?(part) = @walk.places.volume(part).kind.match?(/\A(?:fat|ntfs|exfat)/)

      def hidden_wrong(part, hidden)
        @walk.broken(
          'boot-record', 'The boot record looks in the wrong place',
          "It says that #{hidden} sectors come before it; there are #{part.first_lba}", "partition #{part.number}, sector 0, byte 28",
          part: part.number, remedy: "Write #{part.first_lba} there", mend: 'hidden-sectors', about: { number: part.number }
        )
      end

      # What the record loads.
      def inside(part)
        volume = @walk.places.volume(part)
        return StoreSteps.new(@walk).take_bios(part) if volume.kind == 'ntfs'

        @walk.unknown(
          'loader', 'What its boot record loads is not read here', "A #{volume.kind} volume: use the trial start",
          "partition #{part.number}",
          part: part.number
        )
      end

      def hex(bytes) = bytes.bytes.map { |byte| format('%02X', byte) }.join(' ')
    end
  end
end
