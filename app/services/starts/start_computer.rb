# frozen_string_literal: true

# What is known of the computer of a docket, for its start: the record, and,
# where it is at hand, what its firmware says and what is plugged in.
class StartComputer
  # @param docket [Docket]
  # @param disk [Evrel::Bench::Drive, nil] the written one
  def initialize(docket, disk = nil)
    @docket = docket
    @disk = disk
  end

  # @return [Evrel::Startup::Computer]
  def computer = Evrel::Startup::Computer.from(about, attached:, port: @disk&.port)

  # @return [Hash] as Evrel::Startup::Computer.from takes it
  def about
    record = @docket.computer
    stand_in = at_hand || {}
    { 'name' => record.name, 'firmware' => record.firmware, 'secure_boot' => record.secure_boot, 'compatibility' => record.compatibility,
      'hardware' => record.hardware.presence || stand_in['hardware'], **stand_in.slice('boot_order', 'entries') }.compact
  end

  # @return [Hash, nil] it, where a bench has it at hand
  def at_hand = Benches.computer(@docket.computer.name)&.last

  # @return [Symbol] what its disks hang on, as the emulator calls it
  def controller
    list = about['hardware'] && Evrel::Startup::HardwareList.parse(about['hardware']).of(:storage).first&.modalias
    return :nvme unless list
    return :virtio if list.include?('v00001AF4')

    list.include?('bc01sc08') ? :nvme : :sata
  rescue Evrel::Damaged
    :nvme
  end

  # @return [Array<Evrel::Startup::Computer::Attached>] every other disk
  def attached = @attached ||= others.map { |drive| one_attached(drive, AttachedDrives.contents(drive)) }

  # @return [Array<Evrel::Bench::Drive>] other disks, in the order in which the firmware looks at them
  def others = AttachedDrives.list.reject { |drive| @disk && drive.key == @disk.key }

  private

  def one_attached(drive, contents)
    Evrel::Startup::Computer::Attached.new(
      port: drive.port, bus: drive.bus, word: words(drive, contents), role: role(drive, contents), disk_guid: contents.disk_guid,
      identities: contents.parts.flat_map { |part| [part['guid'], part.dig('volume', 'uuid')] }.compact, starts: starts?(contents)
    )
  end

  def role(drive, contents)
    return :twin if contents.disk_guid && contents.disk_guid == @docket.source&.document&.disk_guid
    return :rescue if drive.removable && starts?(contents)

    shelves.include?(drive.key) ? :shelf : :other
  end

  def words(drive, contents)
    { twin: 'the old drive', rescue: 'the rescue medium', shelf: 'the shelf drive' }.fetch(role(drive, contents)) { drive.name }
  end

  def shelves = @shelves ||= Shelf.where.not(drive: nil).includes(:drive).to_set { |shelf| shelf.drive.identity_key }

  # What a firmware would try: a start-up part, or an active one, which is the system of an MBR.
  def starts?(contents)
    contents.parts.any? { |part| part['role'] == 'startup' || (part['role'] == 'system' && part['type'].to_s.start_with?('0x')) }
  end
end
