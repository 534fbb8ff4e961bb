# frozen_string_literal: true

# Registers computers, changes them with a trail, makes one of two, and puts
# them aside.
class ComputerKeeper
  FIELDS = [*Computer::TEXTS.keys, 'firmware', 'secure_boot', 'wish_days', 'keep_newest', 'keep_monthly',
            'keep_started', 'free', 'hardware', 'boot_entries', 'boot_order'].freeze
  # Too long, or of no use, for one line of the trail.
  UNTOLD = %w[free hardware boot_entries boot_order].freeze

  # @param by [Technician]
  def initialize(by)
    @by = by
  end

  # @param given [Hash] of FIELDS; "drive_id" or "image_id" of what it was read off: that belongs to it from then on
  # @return [Computer]
  # @raise [ActiveRecord::RecordInvalid]
  def add(given)
    computer = Computer.create!(fields(given))
    Drive.find(given['drive_id']).update!(computer:) if given['drive_id']
    Image.find(given['image_id']).update!(computer:) if given['image_id']
    owned = adopt(computer)
    found_by_name(computer)
    note(computer, 'computer_added', "#{computer.name} registered#{", #{Words.count(owned, 'image')} of it" if owned.positive?}")
    computer
  end

  # @param given [Hash] of FIELDS
  # @raise [ActiveRecord::RecordInvalid]
  def change(computer, given)
    computer.assign_attributes(fields(given))
    said = computer.changes.filter_map { |field, (from, to)| told(field, from, to) unless from.presence == to.presence }
    return computer if said.empty?

    computer.save!
    adopt(computer)
    found_by_name(computer)
    note(computer, 'computer_changed', "#{computer.name}: #{said.join(', ')}")
    computer
  end

  # @param image [Image] of which somebody knows whose it is; others of the same disk that say nothing go along
  # @param computer [Computer, nil] nil: none that is known here
  def own(image, computer)
    same = Image.where(id: image.id)
    same = same.or(Image.where(disk_guid: image.disk_guid, computer: nil, host: nil, system_identity: nil)) if image.disk_guid
    number = same.update_all(computer_id: computer&.id, nobodys: computer.nil?, computer_said: !computer.nil?)
    return Event.add('image_owner', "#{Words.count(number, 'image')} said to be of no computer here", technician: @by) unless computer

    found_by_name(computer)
    note(computer, 'computer_changed', "#{Words.count(number, 'image')} said to be of #{computer.name}")
  end

  # @param drive [Drive] of which somebody knows in which computer it was
  def own_drive(drive, computer)
    drive.update!(computer:)
    note(computer, 'computer_changed', "Drive #{drive.maker} #{drive.model} said to be of #{computer.name}")
  end

  # @param aside [Boolean] whether it is put aside, or taken back
  def retire(computer, aside)
    if aside && computer.dockets.exists?(closed_at: nil)
      raise Evrel::Refused.new("#{computer.name} has an open docket", where: 'computer', hint: 'sign it off first')
    end
    return computer if aside == !computer.retired_at.nil?

    computer.update!(retired_at: aside ? Time.now.utc : nil)
    note(computer, 'computer_changed', "#{computer.name} #{aside ? 'put aside' : 'taken back'}")
    computer
  end

  # Two records of one computer: what belongs to the first goes to the second, which keeps what it says of itself.
  # @return [Computer] the second
  # @raise [Evrel::Refused]
  def merge(computer, into)
    raise Evrel::Refused.new('that is the same one', where: 'computer') if computer == into

    computer.proofs.open.each(&:stop)
    [Docket, Image, Drive, Proof, ComputerPhoto].each { |kind| kind.where(computer:).update_all(computer_id: into.id) }
    missing = FIELDS.select { |field| into[field].blank? && computer[field].present? }
    kept = computer.slice(*missing)
    name = computer.name
    computer.destroy!
    into.update!(kept.except('secure_boot', 'wish_days', 'keep_newest', 'keep_monthly', 'keep_started'))
    found_by_name(into)
    note(into, 'computer_changed', "#{name} is the same as #{into.name}: its dockets, images and drives are with it now")
    into
  end

  # @return [Array<Event>] what was done to the record, the newest first
  def self.trail(computer)
    Event.where("kind LIKE 'computer\\_%' AND JSON_VALUE(data, '$.computer_id') = ?", computer.id).includes(:technician).order(id: :desc)
  end

  # Dockets and images are found by the name and the place of their computer.
  def self.found_by_name(computer)
    computer.dockets.reload.find_each(&:refresh_words)
    computer.images.reload.find_each(&:refresh_words)
  end

  # @return [String] one change of a field, for the trail
  def self.told(field, from, to)
    return "#{field.tr('_', ' ')} changed" if UNTOLD.include?(field)

    "#{field.tr('_', ' ')} #{from.presence || 'not known'} → #{to.nil? || to == '' ? 'not known' : to}"
  end

  private

  def found_by_name(computer) = ComputerKeeper.found_by_name(computer)
  def told(field, from, to) = ComputerKeeper.told(field, from, to)
  def fields(given) = given.slice(*FIELDS)

  # Images that say that they are of it, and belong to nobody.
  # @return [Integer] how many are of it now
  def adopt(computer)
    own = Image.there.where(computer: nil)
    mine = own.where(host: computer.name, system_identity: nil)
    mine = mine.or(own.where(system_identity: computer.system_identity)) if computer.system_identity
    mine.update_all(computer_id: computer.id)
    computer.images.there.count
  end

  def note(computer, kind, text) = Event.add(kind, text, technician: @by, data: { computer_id: computer.id })
end
