# frozen_string_literal: true

module Evrel
  # Will it start: reading the start-up chain off a disk, mending it, and trying it.
  module Startup
    # @param disk [Disk] an image's or a written disk
    # @param computer [Computer, Hash] what is known of the computer; see Computer.from
    # @return [Array<Step>] the chain, step by step, up to where it breaks
    # @raise [Damaged] where the description of the computer is not as it should be
    def self.chain(disk, computer = {})
      computer = Computer.from(computer) unless computer.is_a?(Computer)
      Walk.new(disk, computer.for_disk(disk)).run do |walk|
        choice = chosen(walk)
        SystemSteps.new(walk, choice).take if choice.is_a?(Choice)
      end
    end

    # From the firmware to what is started.
    # @param walk [Walk] takes the steps
    # @return [Choice, nil] nil where no kernel is started that could be followed
    def self.chosen(walk)
      firmware = FirmwareSteps.new(walk)
      firmware.take
      return BiosPath.new(walk).take unless walk.computer.uefi?
      return UefiPath.new(walk, firmware).take unless walk.computer.compatibility? && by_bios?(walk.disk)

      walk.ok('compatibility', 'Its firmware starts it as a BIOS would',
              'The disk has no start-up part, and the compatibility start is on', 'table')
      BiosPath.new(walk).take
    end

    # A UEFI firmware that starts by BIOS too does so where the disk has no start-up part.
    def self.by_bios?(disk)
      table = Table.read(disk)
      table&.kind == 'mbr' && table.partitions.none? { |part| part.type == '0xef' }
    rescue Damaged
      false
    end
    private_class_method :by_bios?
  end
end
