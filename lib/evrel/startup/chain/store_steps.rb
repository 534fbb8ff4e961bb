# frozen_string_literal: true

module Evrel
  module Startup
    # The start of a system on NTFS: its store, the partition and the program
    # that it names, and the state of the volume.
    class StoreSteps
      NAME = 'BCD'
      # In a BIOS start the record loads this from the volume's root, and that reads the store.
      BIOS_PROGRAM = '/bootmgr'
      BIOS_STORE = '/Boot/BCD'

      # @param volume [Volume] the start-up part
      # @param loader [String] path
      # @return [String, nil] path of a store that belongs to that loader
      def self.store_near(volume, loader)
        folder = ::File.dirname(loader)
        return "#{folder}/#{NAME}" if volume.exist?("#{folder}/#{NAME}")

        # A copy in the fallback place uses the store of its own folder.
        if fallback?(folder)
          volume.entries('/EFI').select(&:directory?).map do |one|
            "#{one.path}/Boot/#{NAME}"
          end.find { |path| volume.exist?(path) }
        end
      rescue NotFound
        nil
      end

      def self.fallback?(folder) = folder.casecmp?('/EFI/BOOT')

      # @param walk [Walk]
      def initialize(walk)
        @walk = walk
      end

      # @param part [Table::Partition] the start-up part
      # @param loader [String]
      # @return [nil] there is no kernel to follow
      def take_uefi(part, loader) = take(part, StoreSteps.store_near(@walk.places.volume(part), loader))

      # @param part [Table::Partition] the active one
      # @return [nil]
      def take_bios(part)
        unless @walk.places.exist?(part, BIOS_PROGRAM)
          @walk.broken(
            'loader', "#{BIOS_PROGRAM} is missing", 'The boot record loads it', "partition #{part.number}",
            part: part.number, remedy: 'Restore that part from the image'
          )
        end
        @walk.ok('loader', "Its record loads #{BIOS_PROGRAM.delete_prefix('/')}", 'It reads the store', "partition #{part.number}",
                 part: part.number)
        return take(part, BIOS_STORE) if @walk.places.exist?(part, BIOS_STORE)

        @walk.broken(
          'store', 'The store is missing', "#{BIOS_STORE} is not there", "partition #{part.number}",
          part: part.number, remedy: 'Restore that part from the image'
        )
      end

      private

      def take(part, path)
        bytes = @walk.places.head(part, path, Hive::LARGEST)
        @loaded = BootStore.new(bytes).default
        unless @loaded
          @walk.broken(
            'store', 'The store names nothing to start', "#{path} has no default entry", path,
            part: part.number, remedy: 'Restore that part from the image'
          )
        end
        @walk.ok('store', "The store names “#{@loaded.title || 'an entry without a title'}”", path, path, part: part.number)
        system(path)
      rescue Damaged => e
        @walk.broken('store', 'The store is damaged', e.message, path, part: part.number, remedy: 'Restore that part from the image')
      end

      def system(path)
        device = @loaded.system || @loaded.device
        return @walk.ask('root', 'Where the system lies is not said in a known way', path, path) unless device&.partition?

        part = device.part(@walk.table)
        part ? program(part) : no_part(device, path)
      end

      # The one that holds the program that the store names is meant. On a GPT it gets its name back, which others may
      # know it by; where a place is what names it, the store is told the new one.
      def no_part(device, path)
        some = @loaded.path ? @walk.table.partitions.select { |one| @walk.places.exist?(one, @loaded.path) } : []
        number = some.first.number if some.size == 1
        by_name = device.gpt? && @walk.table.kind == 'gpt'
        mend = by_name ? 'partition-guid' : 'store'
        remedy = by_name ? "Give partition #{number} that identity back" : "Point the store at partition #{number}"
        @walk.broken(
          'root', 'The store points to a partition that is not there', "It names #{device}", path,
          remedy: number ? remedy : 'Choose a layout that keeps identities and places',
          mend: number && mend, about: number && { number:, guid: device.guid, device: device.to_s }
        )
      end

      def program(part)
        volume = @walk.places.volume(part)
        @walk.ok('root', 'The store finds the system', @walk.places.word(part), "partition #{part.number}", part: part.number)
        unless volume.browsable?
          return @walk.ask('system', 'What is inside of the system’s part is not read here', "It holds #{volume.kind}",
                           "partition #{part.number}")
        end

        if @loaded.path && !volume.exist?(@loaded.path)
          @walk.broken(
            'system', "#{@loaded.path} is missing", 'The store names it', "partition #{part.number}",
            part: part.number, remedy: 'Restore that part from the image'
          )
        end
        @walk.ok('system', 'The system’s loader is there', @loaded.path.to_s, "partition #{part.number}", part: part.number)
        state(volume, part)
      end

      def state(volume, part)
        where = "partition #{part.number}"
        if volume.hibernated?
          @walk.ask('asleep', 'The system sleeps', 'It wakes into what it had in memory, if that still fits the hardware', where,
                    part: part.number)
        elsif volume.clean? == false
          @walk.ask('clean', 'Its file system was not unmounted in order', 'It is checked at the start, which takes longer', where,
                    part: part.number)
        else
          @walk.ok('clean', 'Its file system is clean', 'It was unmounted in order', where, part: part.number)
        end
        drivers(part)
      rescue Damaged => e
        @walk.ask('clean', 'Whether its file system is clean is not known', e.message.capitalize, where, part: part.number)
        drivers(part)
      end

      # What such a system has is in its registry, which is not read here.
      def drivers(part)
        device = @walk.computer.hardware&.of(:storage)&.first or return
        @walk.ask('drivers', 'Whether it has drivers for this computer is not known',
                  "Its #{device.word} has to be known to the system before it starts", device.modalias,
                  part: part.number, remedy: 'Place driver packs that match the hardware', mend: 'drivers', about: { number: part.number })
      end
    end
  end
end
