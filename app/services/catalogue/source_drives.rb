# frozen_string_literal: true

# Attached drives that hold a system, as something that a docket could restore
# from as they are: ranked by the rules that rank images.
class SourceDrives
  # A drive, what is on it, its record, and what the rules say.
  Found = Struct.new(:attached, :contents, :record, :ranking)

  # @param drive [Drive]
  # @param technician [Technician]
  # @return [TrialStart] under way, or queued now
  # @raise [Evrel::Refused]
  def self.try(drive, technician)
    attached = AttachedDrives.of!(drive)
    if AttachedDrives.shown(attached).systems.empty?
      raise Evrel::Refused.new('no system is on it', where: "port #{attached.port}", hint: 'look inside instead')
    end
    if Write.exists?(drive:, state: %w[queued running])
      raise Evrel::Refused.new('it is being written just now', where: "port #{attached.port}")
    end

    DriveTask.idle!(drive, kinds: DriveTask::WRITING)
    drive.trial_starts.under_way_or_new({ docket_id: nil }, technician:)
  end

  # @param docket [Docket]
  # @param problem [Evrel::Match::Problem]
  def initialize(docket, problem)
    @docket = docket
    @problem = problem
  end

  # @return [Array<Found>] the best first
  def list
    @list ||= begin
      drives = holding_systems
      ranked = Evrel::Match.rank(drives.map.with_index { |one, at| offer(at, *one) }, @problem)
      ranked.map { |ranking| Found.new(*drives[ranking.offer.key], ranking) }
    end
  end

  # @return [Array<Hash>]
  def view = list.map { |found| row(found) }

  # @param id [Integer] of its record
  # @return [Found]
  # @raise [Evrel::Refused]
  def find(id)
    list.find { |found| found.record.id == id.to_i } or
      raise Evrel::Refused.new('no system is on that drive, or it is not attached', where: 'source', hint: 'list again')
  end

  # @param found [Found]
  # @return [String, nil] what somebody has to give a reason for
  def needs_reason(found)
    return 'the drive is of another computer' unless found.ranking.relation == :own

    state(found).find { |fact| fact.state != :ok }&.then { |fact| fact.title.sub(/\A[A-Z]/, &:downcase) }
  end

  # @param found [Found]
  # @return [Array<Evrel::Fact>]
  def facts(found)
    [fact('live', :ask, 'A drive as it is now', 'Nothing was kept of it before: what is read is what there is'), *state(found),
     *found.ranking.facts.reject { |one| %w[whole shelf trial restored].include?(one.id) }]
  end

  private

  def holding_systems
    records = AttachedDrives.records
    drives = AttachedDrives.list.select { |attached| records.key?(attached.key) }
    shown = AttachedDrives.shown_all(drives)
    drives.filter_map do |attached|
      contents = shown.fetch(attached.slot)
      record = records[attached.key]
      [attached, contents, record] if contents.systems.any? && record.shelves.empty? && record.id != @docket.target&.id
    end
  end

  def offer(key, attached, contents, record)
    Evrel::Match::Offer.new(key:, document: DriveAccess.document(attached, contents, record), state: 'unchecked', reachable: true,
                            where: "In port #{attached.port}", needs: nil, trial: seen(contents, record), restored: false)
  end

  # How it was seen to start, where nothing was written to it since.
  def seen(contents, record)
    trial = tried(record)
    return if trial.nil? || contents.written_at.nil? || trial.created_at < contents.written_at

    { true => :reached, false => (:failed if trial.not_started?) }[trial.reached?]
  end

  def trial_of(record) = tried(record)&.then { |one| TrialView.of(one) }
  def tried(record) = (@tried ||= {})[record.id] ||= record.trial_starts.order(:id).last

  def used(contents) = contents.volumes.sum { |volume| volume['used_bytes'].to_i }

  # What is to be known of it before.
  def state(found)
    attached = found.attached
    [(fact('in-use', :ask, 'It is in use', "It is #{attached.in_use}: it changes while it is read") if attached.in_use.present?),
     (fact('running', :ask, 'This machine runs from it', 'It changes while it is read') if attached.running),
     *health(attached), *volumes(found.contents)].compact
  end

  def health(attached)
    health = attached.health
    return [] unless %w[failing worn].include?(health.state) || health.pending.to_i.positive?

    [fact('health', :ask, "The drive is #{health.state}",
          'Better take an image of it first, in passes; what cannot be read here has to be decided one by one')]
  end

  def volumes(contents)
    contents.parts.filter_map do |part|
      name = part['name'].presence || part.dig('volume', 'label').presence || "Part #{part['number']}"
      if part.dig('volume', 'hibernated')
        fact("asleep-#{part['number']}", :ask, "A system sleeps on #{name}", 'It wakes into what it had in memory')
      elsif part.dig('volume', 'clean') == false
        fact("dirty-#{part['number']}", :ask, "#{name} was not unmounted in order", 'It is written as it is, with its journal')
      end
    end
  end

  def row(found)
    attached = found.attached
    { id: found.record.id, port: attached.port, maker: attached.maker, model: attached.model, bus: attached.bus,
      capacity: attached.capacity, used_bytes: used(found.contents), hosts: found.contents.hosts, parts: found.contents.parts,
      written_at: found.contents.written_at&.iso8601, computer: found.record.computer&.name, own: found.ranking.relation == :own,
      trial: trial_of(found.record), why: found.ranking.why, facts: facts(found).map(&:to_h), needs_reason: needs_reason(found) }
  end

  def fact(id, state, title, detail) = Evrel::Fact.new(id:, state:, title:, detail:)
end
