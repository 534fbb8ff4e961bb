# frozen_string_literal: true

module Evrel
  module Safety
    # The rules, each an object that takes a candidate and a purpose and gives
    # a Fact or nil. A fact of state :no refuses the drive.
    module Rules
      def self.fact(id, state, title, detail) = Fact.new(id:, state:, title:, detail:)

      HOLDS_IMAGE = lambda do |drive, purpose|
        next if drive.shelves.empty?

        own = drive.shelves.include?(purpose.shelf)
        fact('shelf', :no, own ? 'Holds the image you are restoring' : 'Holds images',
             "Shelf “#{drive.shelves.join('”, “')}” lies on it")
      end

      LOCKED = lambda do |drive, purpose|
        next if drive.docket.nil? || drive.docket == purpose.docket

        fact('locked', :no, "Locked by #{drive.docket}", 'Another docket has sealed it as its target')
      end

      IN_USE = lambda do |drive, _|
        fact('in-use', :no, 'In use', 'It is mounted, or this machine runs from it') if drive.in_use
      end

      READ_ONLY = lambda do |drive, _|
        fact('read-only', :no, 'Read-only', 'Its switch or its port forbids writing') if drive.read_only
      end

      SERIAL = lambda do |drive, _|
        next unless drive.identity.serial.to_s.length < 4

        fact('serial', :no, 'No readable serial', 'It cannot be told from another drive by its label')
      end

      SIZE = lambda do |drive, purpose|
        missing = purpose.needs - drive.identity.capacity
        if missing.positive?
          fact('size', :no, "#{Units.bytes(missing)} too small",
               "The image needs #{Units.bytes(purpose.needs)}, the drive has #{Units.bytes(drive.identity.capacity)}")
        else
          fact('size', :ok, 'Big enough',
               "#{Units.bytes(drive.identity.capacity)}; the image needs #{Units.bytes(purpose.needs)}")
        end
      end

      SECTOR = lambda do |drive, purpose|
        if drive.logical_sector == purpose.logical_sector
          next fact('sector', :ok, 'Same sector size', "#{drive.logical_sector} bytes, as in the image")
        end

        fact('sector', :no, 'Another sector size',
             "#{drive.logical_sector} bytes, the image has #{purpose.logical_sector}: it would not start")
      end

      HEALTH = lambda do |drive, _|
        state = { 'good' => :ok, 'worn' => :ask, 'failing' => :no }.fetch(drive.health['state'], :ask)
        title = { ok: 'Healthy', ask: 'Health is doubtful', no: 'It is failing' }[state]
        fact('health', state, title, drive.health['reason'])
      end

      OWNER = lambda do |drive, purpose|
        next if drive.owner.nil? || drive.volumes.none? { |volume| volume['role'] == 'system' }

        own = drive.owner == purpose.computer
        fact('owner', :ask, own ? 'The original drive' : "A system of #{drive.owner}",
             own ? "#{drive.owner}’s own system is on it" : 'It belongs to another computer')
      end

      CONTENTS = lambda do |drive, _|
        next fact('contents', :ok, 'Empty', 'No table and no volume on it') if drive.volumes.empty?

        names = drive.volumes.map { |volume| volume['label'] || volume['kind'] }.first(3).join('”, “')
        used = drive.volumes.sum { |volume| volume['used_bytes'].to_i }
        fact('contents', :ask, 'Not empty', "“#{names}”, #{Units.bytes(used)} on it would be lost")
      end

      LOOK_ALIKE = lambda do |drive, _|
        next if drive.twins.empty?

        fact('look-alike', :ask, 'A look-alike is attached', "Same maker, same size on port #{drive.twins.join(', ')}")
      end

      SAME_DISK = lambda do |drive, purpose|
        next if drive.disk_guid.nil? || drive.disk_guid != purpose.disk_guid

        fact('same-disk', :ask, 'Has the identity of the image’s disk', 'It is where the image was taken, or a copy of it')
      end

      ALL = [HOLDS_IMAGE, LOCKED, IN_USE, READ_ONLY, SERIAL, SIZE, HEALTH, SECTOR, OWNER, CONTENTS, LOOK_ALIKE,
             SAME_DISK].freeze
    end
  end
end
