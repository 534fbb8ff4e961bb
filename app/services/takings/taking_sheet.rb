# frozen_string_literal: true

# The sheet on which an image of a drive is asked for: what is on it, where it
# could go, what each way would take, and what is to be known before.
class TakingSheet
  # @param drive [Drive]
  def initialize(drive)
    @drive = drive
    @attached = AttachedDrives.of(drive)
  end

  # @return [Hash]
  def to_h
    { drive: about, attached: !@attached.nil?, fails: fails?, parts:, whole: measure.result&.fetch('whole', nil),
      measure: measure.task && TaskView.of(measure.task), learnt: measure.learnt, shelves: TakingPlaces.new(@drive).all,
      bases: TakingBases.new(@drive).view, lacking: TakingBases.new(@drive).lacking_view,
      facts: facts.map(&:to_h), takings: }
  end

  private

  def contents = @contents ||= @attached ? AttachedDrives.shown(@attached) : Evrel::Survey.nothing
  def measure = @measure ||= TakingMeasure.new(@drive, contents.fingerprint)

  def about
    { id: @drive.id, maker: @drive.maker, model: @drive.model, bus: @drive.bus, capacity: @drive.capacity, serial: Evrel::Identity.mask(@drive.serial.to_s),
      port: @attached&.port, computer: @drive.computer&.name, hosts: contents.hosts, docket: @drive.docket&.number }
  end

  def takings
    @drive.takings.includes(:technician, :shelf, :image, :onto, drive: :computer).order(id: :desc).limit(5).map { |one| TakingView.of(one) }
  end

  def parts
    contents.parts.map { |part| part.merge('with_it' => with(part)) }
  end

  # A system is nothing without what starts it.
  # @return [Array<Integer>] numbers of the parts that are proposed along with it
  def with(part)
    return [] unless part['role'] == 'system'

    contents.parts.select { |one| %w[startup reserved].include?(one['role']) }.map { |one| one['number'] }
  end

  def facts
    [newest, *health, *volumes, (if contents.problem
                                   fact(:ask, 'table', 'Its table cannot be read', "#{contents.problem}: all of it is kept")
                                 end),
     fact(:ok, 'replaced', 'No other image is replaced by it', 'It gets a name of its own')].compact
  end

  def newest
    image = @drive.serial.present? && Image.there.where(drive_serial: @drive.serial).order(:taken_at).last
    return fact(:ask, 'newest', 'No image of this drive is known', 'Until this one is there, it cannot be restored') unless image

    fact(:ok, 'newest', "The newest image of it is #{Words.span(Time.now - image.taken_at)} old",
         "Of #{Words.time(image.taken_at)}, on #{image.shelf.name}")
  end

  # @return [Boolean] whether it is better read in passes
  def fails? = @attached&.health.then { |health| health&.state == 'failing' || health&.pending.to_i.positive? }

  def health
    health = @attached&.health or return []
    return [] unless %w[failing worn].include?(health.state)

    [fact(health.state == 'failing' ? :no : :ask, 'health', "The drive is #{health.state}",
          'Places that cannot be read become zeros, are listed, and the files on them are named')]
  end

  def volumes
    contents.parts.filter_map do |part|
      volume = part['volume']
      name = part['name'].presence || volume['label'].presence || "Part #{part['number']}"
      if volume['hibernated']
        fact(:ask, "asleep-#{part['number']}", "A system sleeps on #{name}",
             'Its memory is kept with it; for a clean image start it, and shut it down')
      elsif volume['clean'] == false
        fact(:ask, "dirty-#{part['number']}", "#{name} was not unmounted in order", 'It is kept as it is, with its journal')
      end
    end
  end

  def fact(state, id, title, detail) = Evrel::Fact.new(id:, state:, title:, detail:)
end
