# frozen_string_literal: true

# Makes a run with its dockets, gives each of them a drive that was proved, and
# begins their writes. All rules are those of the stations: a run only asks them
# once for many.
class RunKeeper
  # A docket that could not go on, and why.
  Left = Struct.new(:docket, :error) do
    def to_h = { docket: docket.number, computer: docket.computer.name, message: [error.message, error.hint].compact.join('; ') }
  end

  # @param technician [Technician]
  # @param given [Hash] "image_id", "computer_ids" in their order, "way", "reason" (why this image is right for all of them), "note",
  #   "named" (whether each gets its computer's name), "table" (CSV with what else is set), "templates" (paths of files in the image)
  # @return [Run]
  # @raise [Evrel::Refused]
  def self.begin(technician, given)
    ids = Array(given['computer_ids'])
    computers = Computer.where(id: ids).index_by(&:id).values_at(*ids)
    can!(ids, computers, given['reason'].to_s)
    run = Run.create!(image: Image.there.find(given['image_id']), technician:, way: given.fetch('way', 'fits'),
                      reason: given['reason'].strip, note: given['note'].presence, seed: SecureRandom.random_number(1 << 31),
                      **own(given, computers))
    computers.each.with_index(1) { |computer, place| new(run, technician).add(computer, place) }
    run
  end

  def self.can!(ids, computers, reason)
    raise Evrel::Refused.new('say for which computers', where: 'computers') if ids.empty?
    raise Evrel::Refused.new("a run has at most #{Run::MOST} computers", where: 'computers') if ids.size > Run::MOST
    raise Evrel::Refused.new('a computer is named twice', where: 'computers') if ids.uniq.size < ids.size
    raise Evrel::Refused.new('one of the computers is not known', where: 'computers', hint: 'list again') if computers.any?(&:nil?)
    raise Evrel::Refused.new('say why this image is right for all of them', where: 'reason') if reason.blank?
  end

  # @return [Hash] named, names and templates
  def self.own(given, computers)
    return { named: false } if given['named'] == false

    unfit = computers.find { |computer| !computer.name.match?(Evrel::Own::Files::NAME) }
    raise Evrel::Refused.new("“#{unfit.name}” cannot be the name of a system", where: 'named', hint: 'leave the names as they are') if unfit

    { named: true, templates: given['templates'].to_a.map(&:strip).reject(&:empty?), names: lines(given['table'], computers) }
  end

  def self.lines(text, computers)
    return if text.blank?

    table = Evrel::Own::Names.parse(text)
    missing = computers.find { |computer| table.named(computer.name).nil? }
    raise Evrel::Refused.new("the table has no line for #{missing.name}", where: 'table') if missing

    computers.map { |computer| table.named(computer.name) }
  end
  private_class_method :can!, :own, :lines

  # @param run [Run]
  # @param technician [Technician]
  def initialize(run, technician)
    @run = run
    @technician = technician
  end

  # A docket of its own, with computer and image sealed.
  # @param place [Integer] in the row
  # @raise [Evrel::Refused]
  def add(computer, place)
    docket = Docket.create!(computer:, cause: 'set_up', note: @run.note, opened_by: @technician, run: @run, run_place: place)
    Event.add('opened', "Docket opened for #{computer.name}, in #{@run.number}", docket:, technician: @technician)
    seal(docket, 'computer')
    seal(docket, 'image', 'image_id' => @run.image_id, 'reason' => @run.reason)
  end

  # The label of any drive: it is looked up, and goes to the first computer that has none.
  # @param typed [String] its last four characters
  # @param reason [String, nil] where what is on it needs one
  # @return [Docket] that has it now
  # @raise [Evrel::Refused]
  def prove(typed, reason)
    docket = free!
    judged = TargetVerdict.new(docket).all
    attached = LabelProof.new(judged, docket:, among: @run.dockets.to_a).whose(typed, @technician)
    take(docket, attached, 'label' => typed, 'reason' => reason)
  end

  # Drives on which nothing lies, in the order of their ports, as far as there are computers without one.
  # @param ids [Array<Integer>] those of them that are meant, by their records
  # @param reason [String, nil] where something else about them needs one
  # @return [Array<Docket>] that have one now
  # @raise [Evrel::Refused] where one of them is not attached, is not blank or may not be taken
  def prove_blank(ids, reason)
    free!
    records = AttachedDrives.records
    meant = AttachedDrives.list.select { |attached| ids.include?(records[attached.key]&.id) }
    raise Evrel::Refused.new('some of these drives are not attached', where: 'drives', hint: 'list again') if meant.size < ids.uniq.size
    raise Evrel::Refused.new('say which drives', where: 'drives') if meant.empty?

    meant.filter_map { |attached| @run.next_docket&.then { |docket| take(docket, attached, 'blank' => true, 'reason' => reason) } }
  end

  # A drive that was seen to be pulled and plugged in again goes to the first computer that has none.
  # @param attached [Evrel::Bench::Drive]
  # @param reason [String, nil] where what is on it needs one
  # @return [Docket] that has it now
  # @raise [Evrel::Refused]
  def prove_unplugged(attached, reason)
    docket = free!
    UnplugProof.passed(docket, AttachedDrives.records.fetch(attached.key), attached, @technician)
    take(docket, attached, 'unplugged' => true, 'reason' => reason)
  end

  # Begins what waits, and goes on with what was stopped or has failed.
  # @return [Array<Left>] those that cannot
  # @raise [Evrel::Refused] where there is nothing to begin
  def start
    waiting = ready
    raise Evrel::Refused.new('no drive waits to be written', where: 'run', hint: 'prove one first') if waiting.empty?

    left = each_of(waiting) { |docket| WriteKeeper.new(docket).start(@technician) }
    raise left.first.error if left.size == waiting.size

    left
  end

  # All that run stop at their next safe point.
  # @raise [Evrel::Refused]
  def pause
    running = @run.dockets.select(&:writing?)
    raise Evrel::Refused.new('nothing is being written', where: 'run') if running.empty?

    running.each { |docket| WriteKeeper.new(docket).pause(@technician) }
  end

  # Those that are written and have not got their name, since something was in the way.
  # @raise [Evrel::Refused] where there is none
  def name
    waiting = @run.named ? @run.dockets.select { |docket| docket.own_error && docket.closed_at.nil? } : []
    raise Evrel::Refused.new('each that is written has its name', where: 'run') if waiting.empty?

    waiting.each { |docket| OwnName.new(docket).give }
  end

  # Some of those that are written are started in the emulator: which, the run's seed says.
  # @param count [Integer]
  # @return [Array<Docket>]
  # @raise [Evrel::Refused]
  def try(count)
    written = @run.dockets.select { |docket| docket.write&.verified }
    raise Evrel::Refused.new('nothing is written yet', where: 'run') if written.empty?
    raise Evrel::Refused.new("between 1 and #{written.size} can be tried", where: 'count') unless count.between?(1, written.size)

    chosen = written.min_by(count) { |docket| Random.new((@run.seed * Run::MOST) + docket.run_place).rand }
    @run.update!(sample: chosen.map(&:id).sort)
    chosen.each do |docket|
      docket.trial_starts.under_way_or_new({ write: docket.write }, technician: @technician, kind: 'emulator', wish: {})
    end
  end

  private

  def free!
    @run.next_docket or raise Evrel::Refused.new('each of its computers has a drive', where: 'run')
  end

  def ready = @run.dockets.select { |docket| docket.sealed?('layout') && (docket.write.nil? || docket.write.can_go_on?) }

  def take(docket, attached, proof)
    record = AttachedDrives.records.fetch(attached.key)
    seal(docket, 'target', { 'drive_id' => record.id, **proof.compact })
    station = Stations::LayoutStation.new(docket.reload)
    station.draft(wish(docket, station.layout))
    station.seal(@technician, {})
    docket
  rescue Evrel::DoesNotFit => e
    raise Evrel::DoesNotFit.new("port #{attached.port}: #{e.message}", where: e.where, hint: e.hint)
  end

  # Each gets identities of its own.
  def wish(docket, layout)
    base = @run.way == 'fits' ? layout.proposal.first : { 'way' => 'as_in_image' }
    return base unless layout.source.kind

    base.merge('identity' => 'renew', 'salt' => "#{@run.number} #{docket.run_place}")
  end

  def seal(docket, station, given = {}) = Stations::Station.for(station, docket.reload).seal(@technician, given)

  # One that cannot is no reason for the others to wait.
  def each_of(dockets)
    dockets.filter_map do |docket|
      Docket.transaction(requires_new: true) { yield docket }
      nil
    rescue Evrel::Error => e
      Left.new(docket, e)
    end
  end
end
