# frozen_string_literal: true

# Reads the start-up chain off the disk that a docket has written, and keeps it.
module ChainReading
  # @param docket [Docket]
  # @return [StartCheck]
  # @raise [Evrel::Refused] where the disk is not attached
  def self.read(docket)
    write = docket.write
    attached = AttachedDrives.of(write.drive) or
      raise Evrel::Refused.new('the written disk is not attached', where: 'start', hint: 'plug it in again')
    computer = StartComputer.new(docket, attached).computer
    state, steps = Evrel::Apart.call { read_off(attached, computer) }
    docket.start_checks.create!(write:, state:, steps:).tap { Event.add('chain_read', text(steps), docket:) }
  end

  # Whoever looks at the station meanwhile hears of it by this.
  def self.text(steps)
    bad = steps.find { |step| step['state'] != 'ok' }
    "Start-up chain read off the disk: #{bad ? bad['title'] : 'every step is there'}"
  end

  def self.read_off(attached, computer)
    disk = attached.open
    steps = Evrel::Startup.chain(disk, computer)
    [Evrel::Fact.worst(steps).to_s, steps.map(&:to_h)]
  ensure
    disk&.close
  end
  private_class_method :read_off, :text
end
