# frozen_string_literal: true

# What is to be done at the real computer, from what is known of it, the image
# and the bench.
class Checklist
  LONGEST = 1000 # characters of a note
  # Days after which things that a computer agrees on with others tend to have lapsed.
  DEFINITIONS = 7
  UPDATES = 30
  TRUST = 30

  def initialize(docket)
    @docket = docket
  end

  # @return [Array<Hash>] id, title, detail; done, note, by, at and photo where somebody was there; drive_id of the drive of
  #   which an image is to be taken
  def items
    ticks = Tick.where(docket: @docket).includes(:technician).index_by(&:item)
    computed.map { |id, title, detail| { id:, title:, detail:, drive_id: drive_of(id), **view(ticks[id]) } }
  end

  # @return [Array<Hash>] the items
  # @raise [Evrel::NotFound] where there is no such item
  def tick(item, technician, done:, note:)
    text = note.to_s.strip
    raise Evrel::Refused.new("a note has at most #{LONGEST} characters", where: 'note') if text.length > LONGEST

    change(item, technician) { |tick| tick.assign_attributes({ done: done == true, note: text.presence }) }
  end

  # @param body [#read]
  # @return [Array<Hash>] the items
  # @raise [Evrel::Refused] where it is no picture, or too large
  def photo(item, technician, body)
    name = "docket-#{@docket.id}-#{item[/\A[a-z-]+/]}.jpg"
    change(item, technician) do |tick|
      Photo.keep(body, Config.path('pictures', name))
      tick.photo = name
    end
  end

  # @return [String, nil]
  # @raise [Evrel::NotFound] where it lies at another bench
  def photo_path(item) = Tick.find_by(docket: @docket, item:)&.tap(&:here!)&.photo_path

  private

  def change(item, technician)
    raise Evrel::NotFound.new("the checklist has no “#{item}”", where: item) unless computed.any? { |id, *| id == item }
    raise Evrel::Refused.new('the docket is signed off', where: 'checklist', hint: 'open it again first') if @docket.closed_at

    tick = Tick.find_or_initialize_by(docket: @docket, item:)
    yield tick
    tick.update!(technician:)
    items
  end

  def drive_of(item) = item == 'fresh' ? @docket.write&.drive_id : nil

  def view(tick)
    return { done: false, note: nil, by: nil, at: nil, photo: nil } unless tick

    { done: tick.done, note: tick.note, by: tick.technician.short_name, at: tick.updated_at.iso8601,
      photo: tick.photo && "/api/dockets/#{@docket.id}/checklist/#{tick.item}/photo?at=#{tick.updated_at.to_i}" }
  end

  # As it stood when the docket was signed off; nothing has to be read for that.
  def kept = @docket.closed_at && @docket.seal('start')&.evidence.to_h.dig('report', 'checklist')

  def computed
    @computed ||= kept&.map { |item| item.values_at('id', 'title', 'detail') } || worked_out
  end

  def worked_out
    [*firmware, *drives, *first_start, *age, *room, *others,
     ['fresh', 'Take a fresh image', 'Once it has run for a day: this one is where it stands now']]
  end

  def attached = @attached ||= AttachedDrives.of(@docket.write&.drive)
  def start = @start ||= StartComputer.new(@docket, attached)
  def image = @docket.source

  def firmware
    target = @docket.target or return []
    name = "#{target.maker} #{target.model}, label …#{target.serial.to_s[-4..]}"
    list = [['first', 'Put the restored drive first in the boot order', "It is the #{name}"]]
    list << ['secure', 'Secure boot is on', 'A loader without a signature is refused: see the chain'] if @docket.computer.secure_boot
    list
  end

  def drives
    start.attached.filter_map do |one|
      case one.role
      when :twin then ['twin', 'Take out the old drive', "It is in port #{one.port}, and has the same identity"]
      when :rescue then ['rescue', 'Take out the rescue medium', "It is in port #{one.port}: the computer would start it again"]
      when :shelf then ['shelf', 'Take out the shelf drive', "It is in port #{one.port}"]
      end
    end.uniq(&:first)
  end

  def first_start
    [['longer', 'Expect a longer first start', 'File systems are looked at, and devices are met for the first time']] + drivers
  end

  def drivers
    steps = @docket.start_checks.order(:id).last&.steps.to_a.select do |step|
      %w[storage network graphics].include?(step['id']) && step['state'] != 'ok'
    end
    steps.empty? ? [] : [['drivers', 'Add drivers', steps.map { |step| step['detail'] }.join('; ')]]
  end

  def days = image ? ((Time.now - image.taken_at) / 1.day).floor : 0

  def age
    return [] if days < 1

    said = "#{days} day#{'s' if days != 1}"
    list = [['clock', 'Check the clock', "The image is #{said} old"]]
    list << ['definitions', 'Bring virus definitions up to date', "They are #{said} behind"] if days >= DEFINITIONS
    list << ['updates', 'Install updates', "They are #{said} behind"] if days >= UPDATES
    list << ['trust', 'Check its trust in the domain, and certificates', "Both may have lapsed after #{said}"] if days >= TRUST
    list
  end

  def room
    bytes = @docket.sealed?('layout') ? DocketLayout.new(@docket).plan.free_at_end : 0
    bytes > 1024**3 ? [['room', 'Room is left unused', "#{Evrel::Units.bytes(bytes)} behind the last part"]] : []
  rescue Evrel::Error
    []
  end

  def others
    count = start.attached.count { |one| one.role == :other }
    if count.zero?
      []
    else
      [['others', 'See that the other disks still have their data',
        "#{count} more #{count == 1 ? 'is' : 'are'} attached here"]]
    end
  end
end
