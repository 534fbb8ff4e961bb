# frozen_string_literal: true

module Stations
  # Which computer, how its firmware starts, what happened and since when.
  class ComputerStation < Station
    def view
      computer = docket.computer
      { computer: { id: computer.id, name: computer.name, place: computer.place, model: computer.model, firmware: computer.firmware,
                    secure_boot: computer.secure_boot, system_identity: computer.system_identity, note: computer.note },
        drives: computer.drives.map { |drive| drive_view(drive) },
        cause: docket.cause, causes: Docket::CAUSES, trouble_since: docket.trouble_since&.iso8601,
        trouble_noticed: docket.trouble_noticed&.iso8601, note: docket.note }
    end

    def facts
      [known, images, target_there, trouble]
    end

    # @param params [Hash] "cause", "trouble_since" (ISO 8601 or empty), "note"
    def seal(technician, params)
      check_order
      meanwhile!(params)
      docket.update!(cause: params.fetch('cause', docket.cause), **trouble_span(params),
                     note: params.fetch('note', docket.note))
      computer = docket.computer
      stamp(technician, "#{computer.starts_by.upcase_first}, #{docket.cause_name.downcase}",
            { computer_id: computer.id, cause: docket.cause, trouble_since: docket.trouble_since&.iso8601,
              trouble_noticed: docket.trouble_noticed&.iso8601 },
            { firmware: computer.firmware_settings, system_identity: computer.system_identity })
    end

    private

    # Since a moment, or between two: surely well until the first, surely in trouble from the second on.
    def trouble_span(params)
      since = moment(params, 'trouble_since')
      noticed = moment(params, 'trouble_noticed')
      raise Evrel::Refused.new('it was noticed before it began', where: 'trouble noticed') if since && noticed && noticed < since

      { trouble_since: since, trouble_noticed: noticed == since ? nil : noticed }
    end

    def moment(params, key)
      return docket[key] unless params.key?(key)

      text = params[key]
      found = text.present? ? Time.iso8601(text) : nil
      raise Evrel::Refused.new('the trouble cannot have begun in the future', where: key.tr('_', ' ')) if found && found > Time.now

      found
    rescue ArgumentError
      raise Evrel::Refused.new("#{text.inspect} is no date and time", where: key.tr('_', ' '))
    end

    def drive_view(drive)
      attached = AttachedDrives.of(drive)
      { maker: drive.maker, model: drive.model, capacity: drive.capacity, port: attached&.port,
        serial: Evrel::Identity.mask(drive.serial), last_seen_at: drive.last_seen_at&.iso8601 }
    end

    def known
      computer = docket.computer
      unless computer.firmware
        return fact('firmware', :ask, 'Not known how it starts',
                    'Choose it on the page of the computer; until then it is read off the image and the written disk')
      end

      fact('firmware', :ok, "Starts by #{computer.firmware.upcase}",
           "Secure boot is #{computer.secure_boot ? 'on' : 'off'}")
    end

    def images
      count = docket.computer.images.there.count
      return fact('images', :no, 'No image of it is known', 'Plug in its shelf, or look for images elsewhere') if count.zero?

      newest = docket.computer.images.there.maximum(:taken_at)
      fact('images', :ok, "#{count} image#{'s' if count > 1} of it", "The newest is from #{Words.time(newest)}")
    end

    def target_there
      own = docket.computer.drives.map(&:serial)
      others = AttachedDrives.list.reject { |drive| own.include?(drive.serial) }
      shelves = Shelf.where.not(drive: nil).includes(:drive).map { |shelf| shelf.drive.serial }
      free = others.reject { |drive| shelves.include?(drive.serial) }
      return fact('target', :ask, 'No other drive is attached', 'Plug the replacement in') if free.empty?

      fact('target', :ok, "#{free.size} drive#{'s' if free.size > 1} could be a target",
           free.map { |drive| "port #{drive.port}" }.join(', '))
    end

    def trouble
      if docket.trouble_since.nil?
        unless docket.trouble_noticed
          return fact('trouble', :ask, 'Not known since when',
                      'Without it no image can be told from before the trouble')
        end

        return fact('trouble', :ask, "Noticed #{Words.time(docket.trouble_noticed)}", 'Not known how long before that it began')
      end
      if docket.trouble_noticed
        return fact('trouble', :ok, "Began between #{Words.time(docket.trouble_since)} and #{Words.time(docket.trouble_noticed)}",
                    docket.cause_name)
      end

      fact('trouble', :ok, "In trouble since #{Words.time(docket.trouble_since)}", docket.cause_name)
    end
  end
end
