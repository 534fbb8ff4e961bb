# frozen_string_literal: true

module Demo
  # One docket at every station, so that each has something real to show: sealed,
  # written and started by the application itself.
  class DocketStates
    # Drives of dockets that were written already.
    DRIVES = {
      'TF48-3360-4R8T' => { port: '17', maker: 'Tarn', model: 'Flux SSD', capacity: 480_103_981_056, bus: 'SATA',
                            smart: StandIns::Smart.ata(hours: 66, temperature: 30, wear: 0) },
      'TF48-3360-9M2B' => { port: '18', maker: 'Tarn', model: 'Flux SSD', capacity: 480_103_981_056, bus: 'SATA',
                            smart: StandIns::Smart.ata(hours: 12, temperature: 31, wear: 0) }
    }.freeze
    REASON = 'new from the cupboard'

    # @param bench [StandIns::Bench]
    # @param make [#call] serial and about → path of the drive's contents
    def initialize(bench, make:)
      @bench = bench
      @make = make
      @ina = Technician.find_by!(sign_in: 'ina')
      @kaja = Technician.find_by!(sign_in: 'kaja')
    end

    def open
      DRIVES.each { |serial, about| @make.call(serial, about) }
      AttachedDrives.remember
      handed_over
      at_image
      at_target
      at_layout
      at_write
      @start = opened('TKT-04', 'corrupt', 'Stopped in the middle of an update.')
      seal_up(@start, 'Holm', 'TF48-3360-9M2B')
      @done = opened('TILL-05', 'slow', 'Took a minute for each receipt.')
      seal_up(@done, 'Office share', 'TF48-3360-4R8T')
    end

    # @return [Array<Proc>] what may go on side by side
    def writes
      [-> { write(@start) }, lambda {
        write(@done)
        TrialJob.new(@done.trial_starts.create!(technician: @ina, write: @done.write).id).perform
      }]
    end

    # Signs one off, and puts its drive away.
    def close
      Checklist.new(@done).tick('first', @ina, done: true, note: 'Set in its firmware')
      seal(@done, 'start', reason: 'its own screen, by I. Hauge')
      @bench.pull(DRIVES.fetch('TF48-3360-4R8T')[:port])
    end

    private

    def docket(computer) = Docket.joins(:computer).find_by!(computers: { name: computer })

    def opened(computer, cause, note)
      Docket.create!(computer: Computer.find_by!(name: computer), cause:, note:, opened_by: @kaja).tap do |made|
        Event.add('opened', "Docket opened for #{computer}", docket: made, technician: @kaja)
      end
    end

    def seal(docket, station, **params)
      Stations::Station.for(station, docket.reload).seal(@ina, params.transform_keys(&:to_s))
    end

    def image(computer, shelf)
      Image.joins(:computer, :shelf).where(computers: { name: computer }, shelves: { name: shelf }).where(format: %w[evrel-image qcow2])
           .where.not(state: %w[damaged incomplete]).order(:taken_at).last
    end

    def with_image(docket, shelf)
      seal(docket, 'computer')
      chosen = image(docket.computer.name, shelf)
      CheckJob.new(chosen.id).perform unless chosen.state == 'whole'
      seal(docket, 'image', image_id: chosen.id)
    end

    def with_target(docket, serial) = seal(docket, 'target', drive_id: Drive.find_by!(serial:).id, label: serial[-4..], reason: REASON)

    def handed_over
      HandOver.new(docket('OFC-02')).to(@kaja.id, 'Which image is right for the new computer? Its owner comes at four', by: @ina)
    end

    # The board's own drive is restored from as it is, onto a new one: it is failing.
    def at_image = %w[TILL-05 SRV-01 PIER-02].each { |name| seal(docket(name), 'computer') }
    def at_target = with_image(opened('TILL-05', 'rehearsal', 'Would it come back, should the letter be right?'), 'Office share')

    # Half as large as the disk of the image: it has to shrink.
    def at_layout
      ticket = opened('TKT-04', 'rehearsal', 'Would it fit the small drive from the cupboard?')
      with_image(ticket, 'Holm')
      with_target(ticket, 'KB12-1187-0WQ8')
    end

    def at_write
      kiosk = docket('KSK-01')
      with_image(kiosk, 'Office share')
      with_target(kiosk, 'CARD-32-77E2')
      seal(kiosk, 'layout')
    end

    def seal_up(docket, shelf, serial)
      with_image(docket, shelf)
      with_target(docket, serial)
      seal(docket, 'layout')
    end

    # At the speed of its port: what was measured here is what later writes are predicted from.
    def write(docket)
      write = WriteKeeper.new(docket.reload).start(@ina)
      write.jobs.delete_all
      WriteJob.new(write.id).perform
      docket.reload
    end
  end
end
