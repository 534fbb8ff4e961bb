# frozen_string_literal: true

module Evrel
  module Startup
    # What the firmware does before it looks at the disk: how it starts, what it
    # tries first, and where its own entries point.
    class FirmwareSteps
      # @param walk [Walk]
      def initialize(walk)
        @walk = walk
        @computer = walk.computer
      end

      def take
        kind
        first_tried
        twins
      end

      # Entries can be held against the disk only when its table was read.
      # @return [Computer::Entry, nil] the first one that points to this disk
      def entries
        return if @computer.entries.empty?

        gone = @computer.entries.select { |entry| entry.partition && lost?(entry) }
        if gone.any?
          point_nowhere(gone)
        else
          @walk.ok('entries', 'Its start entries point to what is there', names(@computer.entries),
                   'the firmware’s entries')
        end
        ordered.find { |entry| entry.partition && here?(entry) }
      end

      private

      def kind
        return read_off if @computer.read_off
        return bios unless @computer.uefi?

        secure = @computer.secure_boot? ? 'secure boot is on' : 'secure boot is off'
        @walk.ok('firmware', 'Firmware starts by UEFI', "It looks for a start-up part on a GPT disk; #{secure}", 'firmware "uefi"')
      end

      def read_off
        @walk.ok('firmware', "The disk is made to start by #{@computer.kind.upcase}",
                 "Nothing is known of its computer; #{@computer.read_off}", 'the disk itself')
      end

      def bios
        @walk.ok('firmware', 'Firmware starts by BIOS', 'It runs the code in the first sector of the disk', 'firmware "bios"')
      end

      # In the order of the firmware, what comes before this disk and could be started.
      def first_tried
        before = @computer.order.take_while { |name| !ours?(name) }.flat_map { |name| attached_as(name) }.uniq
        before = before.select(&:starts)
        return if @computer.order.empty? || @computer.attached.empty?
        return @walk.ok('order', 'Nothing is started before it', "Boot order: #{@computer.order.join(', ')}", 'boot order') if before.empty?

        first = before.first
        @walk.no(
          'order', "It would start #{first.word} instead",
          "Port #{first.port} comes first in the boot order: #{@computer.order.join(', ')}", 'boot order',
          remedy: "Take it out of port #{first.port}, or put this disk first", mend: 'boot-order'
        )
      end

      def ours?(name)
        name == "port #{@computer.port}" || @computer.entries.any? { |entry| entry.name == name && entry.partition && here?(entry) }
      end

      def attached_as(name)
        case name
        when /\Aport (\S+)\z/ then @computer.attached.select { |one| one.port == Regexp.last_match(1) }
        when 'USB' then @computer.attached.select { |one| one.bus == 'USB' }
        else []
        end
      end

      def twins
        @computer.attached.select { |one| one.role == :twin }.each do |twin|
          @walk.ask(
            'twin', 'A twin is attached',
            "#{twin.word.capitalize} in port #{twin.port} has the same identity: the system may start from either", 'disk GUID',
            remedy: "Take it out of port #{twin.port} before the first start, or give this disk an identity of its own", mend: 'identities'
          )
        end
      end

      def ordered = @computer.entries.sort_by { |entry| @computer.order.index(entry.name) || @computer.order.size }
      def names(entries) = entries.map { |entry| "“#{entry.name}”" }.join(', ')
      def guids = @walk.table ? @walk.table.partitions.map(&:guid) : []
      def here?(entry) = guids.any? { |guid| guid.casecmp?(entry.partition) }
      def lost?(entry) = !here?(entry) && @computer.attached.none? { |one| one.identities.any? { |id| id.casecmp?(entry.partition) } }

      def point_nowhere(gone)
        @walk.ask('entries', "A start entry points to a partition that is gone: #{gone.first.name}",
                  "Partition #{gone.first.partition} is on no attached disk; the firmware passes it over", 'the firmware’s entries',
                  remedy: 'Write a start entry for this disk', mend: 'boot-entry')
      end
    end
  end
end
