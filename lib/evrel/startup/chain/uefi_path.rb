# frozen_string_literal: true

module Evrel
  module Startup
    # The way of a UEFI firmware: GPT, start-up part, and the loader there.
    class UefiPath
      ESP = 'c12a7328-f81f-11d2-ba4b-00a0c93ec93b'

      # @param walk [Walk]
      # @param firmware [FirmwareSteps]
      def initialize(walk, firmware)
        @walk = walk
        @firmware = firmware
      end

      # @return [Choice, nil] what is started; nil where the store of an NTFS system says it
      def take
        table
        entry = @firmware.entries
        startup_part
        LoaderSteps.new(@walk, @part).take(entry)
      end

      private

      def table
        @walk.table = Table.read(@walk.disk)
        @walk.broken('table', 'No partition table', 'The firmware finds nothing to start from', 'sectors 1 and last') unless @walk.table
        @walk.places = Places.new(@walk.disk, @walk.table)
        whole
      rescue Damaged => e
        @walk.broken('table', 'GPT cannot be used', e.message, e.where)
      end

      def whole
        table = @walk.table
        return @walk.ok('table', 'MBR is readable', 'A UEFI firmware starts from such a disk too', 'sector 0') if table.kind == 'mbr'
        return @walk.ok('table', 'GPT is whole', 'Both copies agree', 'sectors 1 and last') if table.findings.empty?

        @walk.ask('table', 'GPT is damaged, one copy is good', table.findings.join('; '), "read from the #{table.source} copy",
                  remedy: 'Write both copies anew from the good one', mend: 'gpt')
      end

      def startup_part
        @part = @walk.table.partitions.find { |part| [ESP, '0xef'].include?(part.type) }
        mistyped = @part.nil?
        @part ||= wrong_type
        @esp = @walk.places.volume(@part)
        damaged = @walk.places.damage(@part)
        @walk.broken('startup-part', 'Start-up part is damaged', damaged.message, damaged.where, part: @part.number) if damaged
        unless @esp.is_a?(Volume::Fat)
          @walk.broken('startup-part', 'Start-up part cannot be read', "It holds #{@esp.kind} where the firmware reads FAT only",
                       "partition #{@part.number}", part: @part.number, remedy: 'Restore the start-up part from the image')
        end
        found unless mistyped
      end

      # Some firmware looks into every FAT volume, and some does not.
      def wrong_type
        likely = @walk.table.partitions.find { |part| @walk.places.volume(part).is_a?(Volume::Fat) && @walk.places.exist?(part, '/EFI') }
        unless likely
          @walk.broken('startup-part', 'No start-up part', 'No partition has the type “EFI system”, and none has loaders',
                       'types in the table')
        end
        @walk.ask(
          'startup-part', 'The start-up part has another type',
          "Partition #{likely.number} has loaders, but its type is “#{likely.type_name}”: not every firmware looks there",
          'types in the table',
          part: likely.number, remedy: 'Give it the type “EFI system”', mend: 'startup-type', about: { number: likely.number }
        )
        likely
      end

      def found
        title = 'Finds the start-up part'
        about = "#{@esp.kind.upcase} volume#{" “#{@esp.label}”" if @esp.label}"
        return @walk.ok('startup-part', title, "#{about}, clean", "partition #{@part.number}", part: @part.number) if @esp.clean?

        @walk.ask(
          'startup-part', title, "#{about}, not unmounted in order", "partition #{@part.number}",
          part: @part.number, remedy: 'Check it once the system runs'
        )
      end
    end
  end
end
