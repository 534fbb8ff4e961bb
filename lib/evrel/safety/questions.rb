# frozen_string_literal: true

module Evrel
  module Safety
    # What somebody has to decide about, and what is only worth knowing.
    module Questions
      def self.ask(id, source, &) = Rule.new(id, :ask, source, &)
      def self.note(id, source, &) = Rule.new(id, :note, source, &)

      # Hours of writing from which a port counts as slow for it.
      SLOW = 1800 # seconds
      # 32-bit sector numbers in an MBR (UEFI specification, 5.2.1).
      MBR_SECTORS = 2**32

      HEALTH = ask('health', 'the drive’s SMART data') do |drive, _|
        case drive.health.state
        when 'good' then Rule::Fine.new('Healthy', drive.health.reason)
        when 'worn' then ['Worn', drive.health.reason]
        when 'unknown' then ['Health not known', drive.health.reason] unless drive.removable
        end
      end

      # Nobody can be asked to decide about what no such drive ever tells.
      NO_HEALTH = note('no-health', 'the drive’s kind') do |drive, _|
        next unless drive.removable && drive.health.state == 'unknown'

        ['Health not known', 'A card or stick has no SMART data to give']
      end

      CONTENTS = ask('contents', 'the drive’s table and volumes') do |drive, _|
        next Rule::Fine.new('Empty', 'No table and no volume on it') if drive.volumes.empty?

        names = drive.volumes.map { |volume| volume['label'] || volume['kind'] }.first(3).join('”, “')
        used = drive.volumes.sum { |volume| volume['used_bytes'].to_i }
        ['Not empty', "“#{names}”, #{Units.bytes(used)} on it would be lost"]
      end

      OTHER_SYSTEM = ask('owner', 'the system on it, and the records of drives') do |drive, purpose|
        others = drive.hosts - [purpose.computer]
        others = [drive.owner] if others.empty? && drive.system? && drive.owner && drive.owner != purpose.computer
        next ["Holds the system of #{Units.list(others)}", 'It belongs to another computer'] if others.any?

        unread = drive.volumes.find { |volume| Volume::UNREAD.include?(volume['kind']) }
        next if unread.nil? || drive.owner == purpose.computer || drive.hosts.include?(purpose.computer)

        ['May hold a system that cannot be read', "#{unread['label'] || 'A part of it'} is #{unread['kind']}: whose it is, is not known"]
      end

      ORIGINAL = note('original', 'the system on it, and the records of drives') do |drive, purpose|
        next unless drive.owner == purpose.computer || drive.hosts.include?(purpose.computer)

        ['The original drive', "#{purpose.computer}’s own system is on it"] if drive.system?
      end

      MOVED = ask('moved', 'the records of dockets') do |drive, _|
        moved = drive.moved or next
        if moved['kept']
          ['Kept for a while yet',
           "Moved to #{moved['to']} #{Units.span(moved['ago'])} ago: the way back, until #{moved['kept'].strftime('%-d %b')}"]
        else
          Rule::Fine.new('Moved, and seen to start', "To #{moved['to']}, #{Units.span(moved['ago'])} ago: it may be cleaned")
        end
      end

      NEWER = ask('newer', 'the times in its volumes') do |drive, purpose|
        next if drive.newest.nil? || purpose.taken_at.nil? || drive.newest <= purpose.taken_at

        rest = Questions.image_of(drive)
        ['Newer than the image', "Written to #{Units.span(drive.newest - purpose.taken_at)} after the image was taken; #{rest}"]
      end

      SHRINK = note('shrink', 'the drive’s capacity and the image’s volumes') do |drive, purpose|
        capacity = drive.identity.capacity
        next unless purpose.least && capacity.between?(purpose.least, purpose.needs - 1)

        ['Smaller than the image’s disk',
         "#{Units.bytes(capacity)} for #{Units.bytes(purpose.needs)}: parts have to shrink, to #{Units.bytes(purpose.least)} at the least"]
      end

      SECTOR = ask('sector', 'the drive’s sector size') do |drive, purpose|
        same = drive.logical_sector == purpose.logical_sector
        next Rule::Fine.new('Same sector size', "#{drive.logical_sector} bytes, as in the image") if same

        ['Another sector size',
         "#{drive.logical_sector} bytes, the image has #{purpose.logical_sector}: its table and volumes must be converted"]
      end

      REMOVABLE = ask('removable', 'the drive’s kind') do |drive, _|
        ['Removable', "A card or stick (#{drive.bus}): is it what the computer starts from?"] if drive.removable
      end

      SPEED = ask('speed', 'what its port is known for') do |drive, purpose|
        next unless drive.speed && purpose.amount

        seconds = purpose.amount / drive.speed
        ['A slow port for this', "#{Units.bytes(purpose.amount)} take about #{Units.span(seconds)} on it"] if seconds > SLOW
      end

      KIND = ask('kind', 'the drive, and the one that the image is of') do |drive, purpose|
        was = purpose.rotating
        next if was.nil? || drive.rotating.nil? || was == drive.rotating

        words = { true => 'a rotating disk', false => 'solid state' }
        ['Another kind of drive', "The image is of #{words[was]}, this is #{words[drive.rotating]}"]
      end

      SAME_DISK = ask('same-disk', 'the identities in the tables') do |drive, _|
        next if drive.same_disk.empty?

        ['Shares its disk identity', "The disk on port #{drive.same_disk.join(', ')} has the same: a copy, which may start instead"]
      end

      OF_IMAGE = note('of-image', 'the identities in the tables') do |drive, purpose|
        next if drive.disk_guid.nil? || drive.disk_guid != purpose.disk_guid

        ['Has the identity of the image’s disk', 'It is where the image was taken, or a copy of it']
      end

      REACH = ask('reach', 'the image’s table') do |drive, purpose|
        reach = MBR_SECTORS * drive.logical_sector
        next unless purpose.table_kind == 'mbr' && drive.identity.capacity > reach

        ['Larger than its table can address',
         "An MBR reaches #{Units.bytes(reach)}; #{Units.bytes(drive.identity.capacity - reach)} stay unused"]
      end

      LOOK_ALIKE = note('look-alike', 'the models and capacities of the attached drives') do |drive, _|
        next if drive.twins.empty? && drive.near.empty?

        same = "Same maker, same size on port #{drive.twins.join(', ')}" if drive.twins.any?
        near = drive.near.map { |port, count| "the serial of port #{port} differs by #{count} character#{'s' if count > 1}" }
        ['A look-alike is attached', [same, *near].compact.join('; ').sub(/\A\w/, &:upcase)]
      end

      SERIAL = note('serial', 'the drive') do |drive, _|
        ['No readable serial', 'Only the unplug check can prove that it is the right one'] unless drive.identity.provable?
      end

      # @return [String] whether an image of the drive holds what is on it
      def self.image_of(drive)
        return 'and no image of this drive exists' unless drive.newest_image
        return 'an image of this drive holds that' if drive.newest_image >= drive.newest

        "the newest image of this drive is #{Units.span(drive.newest - drive.newest_image)} older"
      end

      # The weightiest first: the first one that fires is what a card says.
      ALL = [MOVED, OTHER_SYSTEM, ORIGINAL, NEWER, HEALTH, NO_HEALTH, SAME_DISK, CONTENTS, SHRINK, SECTOR, REACH, OF_IMAGE, REMOVABLE,
             KIND, SPEED, LOOK_ALIKE, SERIAL].freeze
    end
  end
end
