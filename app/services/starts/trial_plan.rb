# frozen_string_literal: true

# What a trial start is made of: which disk, on which computer, with what
# beside it, and what it is asked.
class TrialPlan
  # @param trial [TrialStart]
  def initialize(trial)
    @trial = trial
    @docket = trial.docket
  end

  # Shows the disks as files, for as long as the start takes.
  # @yieldparam path [String] of the one that is started
  # @yieldparam format [String]
  # @raise [Evrel::Error]
  def lend(disks = drives, paths = {}, &block)
    return lend_drive(@trial.drive, &block) if @trial.drive
    return lend_image(@trial.image, &block) if @trial.image && @trial.write.nil? && @trial.layout_try.nil?

    if disks.empty?
      @paths = paths
      return block.call(*source.first(2))
    end

    disks.first.as_file { |path| lend(disks.drop(1), paths.merge(disks.first.slot => path), &block) }
  end

  # @return [Hash] what Evrel::Startup::Trial takes besides, within `lend`
  def machine
    wish = @trial.wish.to_h
    controller = wish['controller']&.to_sym || (@docket ? start_computer.controller : :nvme)
    { firmware: source[2], sector: source[3] || 512, controller:, secure_boot: wish.fetch('secure_boot', secure?), beside: }
  end

  # @return [Evrel::Startup::Proof, nil]
  def proof
    asked = @docket&.computer&.proof
    return if asked.blank? || @trial.wish.to_h['ask'] == false || asked['command'].blank?

    Evrel::Startup::Proof.new(
      user: asked['user'].presence || 'root', password: Secrets.of_computer(@docket.computer), command: asked['command'],
      expect: asked['expect'].to_s
    )
  end

  # Of several disks: which one it was that started.
  # @param result [Evrel::Startup::Trial::Result]
  # @return [String, nil]
  def started_from(result)
    places = [result.loader, result.from].compact.map { |index| drives[index] }.uniq
    return if drives.size < 2 || places.empty?
    return "its loader came from port #{places.first.port}, its system from port #{places.last.port}" if places.size > 1

    "started from port #{places.first.port}#{', not from the restored disk' unless ours?(places.first)}"
  end

  # With another disk than ours, or half of it, it has not been reached, whatever came up.
  # @return [String]
  def outcome(result)
    strange = drives.size > 1 && [result.loader, result.from].compact.any? { |index| !ours?(drives[index]) }
    result.outcome == :reached && strange ? 'other' : result.outcome.to_s
  end

  private

  def source = @source ||= find_source
  def start_computer = @start_computer ||= StartComputer.new(@docket, written)
  def written = @trial.write && (@written ||= AttachedDrives.of(@trial.write.drive))
  def secure? = @trial.write ? @docket.computer.secure_boot : false

  # @return [Array] path, format, kind of firmware, and bytes per sector where they are known
  def find_source
    return of_try(@trial.layout_try) if @trial.layout_try

    raise Evrel::Refused.new('the written disk is not attached', where: 'start', hint: 'plug it in again') unless written

    [@paths.fetch(written.slot), 'raw', kind(@docket.computer, @paths.fetch(written.slot)), written.logical_sector]
  end

  def of_try(tried) = [tried.path, 'raw', kind(tried.docket.computer, tried.path), AttachedDrives.of(tried.docket.target)&.logical_sector]

  # @return [Symbol] of its computer, or, where that is not known, as the disk is made for
  def kind(computer, path)
    (computer&.firmware || Evrel::Disk::File.open(path) { |disk| Evrel::Startup::FirmwareKind.of(disk).first }).to_sym
  end

  # Nothing of it changes: what the system writes goes beside it.
  def lend_drive(drive)
    attached = AttachedDrives.of!(drive)
    attached.as_file do |path|
      @source = [path, 'raw', kind(drive.computer, path), attached.logical_sector]
      yield path, 'raw'
    end
  end

  # It stays open for as long as the start takes.
  def lend_image(image)
    ImageAccess.open(image) do |opened|
      Evrel::Image::TrialSource.lend(opened, Image.kept) do |path, format|
        @source = [path, format, image.document.table_kind == 'mbr' ? :bios : :uefi]
        yield path, format
      end
    end
  end

  def with_others? = @trial.kind == 'computer' || @trial.wish.to_h['attached'] == true

  # The disks in the order in which the firmware tries them.
  def drives
    @drives ||= with_others? && written ? ordered : [written].compact
  end

  def ordered
    order = start_computer.about['boot_order'] || []
    all = [written, *start_computer.others].select do |drive|
      drive.key == written.key || start_computer.attached.any? do |one|
        one.port == drive.port && one.starts
      end
    end
    all.sort_by { |drive| [place(order, drive), drive.key == written.key ? 0 : 1, drive.port.to_i] }.first(Evrel::Startup::Emulator::MOST_DISKS)
  end

  def place(order, drive)
    order.index("port #{drive.port}") || (drive.bus == 'USB' && order.index('USB')) || order.size
  end

  def ours?(drive) = drive.key == written.key

  def beside
    return {} if drives.size < 2

    at = drives.index { |drive| drive.key == written.key }
    parts = drives.map { |drive| emulated(drive) }
    { before: parts.first(at), after: parts.drop(at + 1) }
  end

  def emulated(drive)
    usb = drive.bus == 'USB'
    Evrel::Startup::Emulator::Drive.new(path: @paths.fetch(drive.slot), format: 'raw', sector: usb ? nil : drive.logical_sector,
                                        controller: usb ? :usb : start_computer.controller)
  end
end
