# frozen_string_literal: true

# What a technician does with a drive of the bench, beside restoring to it.
class DriveKeeper
  # @param drive [Drive]
  # @param technician [Technician]
  def initialize(drive, technician)
    @drive = drive
    @technician = technician
  end

  # Until somebody lifts it, no path writes to the drive.
  # @param note [String]
  # @param till [String, nil] a date, as in 2026-12-31
  def protect(note, till)
    raise Evrel::Refused.new('a note is missing', where: 'note', hint: 'say what is on it') if note.to_s.strip.empty?

    last = till.present? ? Date.iso8601(till) : nil
    raise Evrel::Refused.new("#{till} is over", where: 'until', hint: 'choose a day to come') if last && last < Date.current

    @drive.update!(protected_by: @technician, protected_note: note.strip.truncate(200), protected_until: last)
    record('drive_protected', "#{name} protected: #{note}")
  rescue Date::Error
    raise Evrel::Refused.new("#{till} is no date", where: 'until', hint: 'write it as 2026-12-31')
  end

  # @raise [Evrel::Refused] for anybody but its protector and a lead
  def lift
    raise Evrel::Refused, 'the drive is not protected' unless @drive.protected?

    unless @technician.lead? || @drive.protected_by_id == @technician.id
      raise Evrel::Refused.new("#{@drive.protected_by.short_name} has protected it", where: name,
                                                                                     hint: 'only who protected it, or a lead, lifts that')
    end

    @drive.update!(protected_by: nil, protected_note: nil, protected_until: nil)
    record('drive_released', "Protection of #{name} lifted")
  end

  # Begins the proof by unplugging, for what is done to the drive next.
  # @return [UnplugCheck]
  def unplug
    attached, = judged
    UnplugProof.begin(nil, @drive, attached, @technician)
  end

  # @param given [Hash] "how", "label" or "unplugged", "reason"
  # @return [DriveTask]
  def clean(given)
    how = given['how'].to_s
    unless Evrel::Upkeep::Clean::HOWS.key?(how)
      raise Evrel::Refused.new("“#{how}” is no way of cleaning", where: 'how', hint: Evrel::Upkeep::Clean::HOWS.keys.join(', '))
    end

    begin_writing('clean', given, how:)
  end

  # @param given [Hash] "label" or "unplugged"; "whole", and then "reason": what is on the drive is lost
  # @return [DriveTask]
  def test_capacity(given) = begin_writing('capacity', given, whole: given['whole'] == true)

  private

  def name = "#{@drive.maker} #{@drive.model}"

  # The same verdict and the same proof as for a target.
  def begin_writing(kind, given, **params)
    attached, verdict = judged
    decide(attached, verdict, given['reason']) if verdict.ask? && (kind == 'clean' || params[:whole])
    DriveTask.idle!(@drive, takings: true)
    given['unplugged'] ? UnplugProof.prove!(nil, @drive) : LabelProof.new(@all).check(attached, given['label'].to_s, @technician)
    record("#{kind}_asked",
           "#{DriveTask::WORDS.fetch(kind)} of #{name} in port #{attached.port} begun#{": #{given['reason']}" if given['reason'].present?}")
    DriveTask.begin(drive: @drive, technician: @technician, kind:, fingerprint: AttachedDrives.contents(attached).fingerprint,
                    params: { port: attached.port, reason: given['reason'].presence, **params }.compact)
  end

  # @return [Array<(Evrel::Bench::Drive, Evrel::Safety::Verdict)>]
  # @raise [Evrel::Refused] where it is away, or refused
  def judged
    @all = TargetVerdict.new(nil).all
    attached, verdict = @all.find { |drive, _| drive.key == @drive.identity_key }
    raise Evrel::Refused.new('that drive is not attached', where: 'drive', hint: 'plug it in') unless attached

    TargetVerdict.refuse!(attached, verdict)
    [attached, verdict]
  end

  def decide(attached, verdict, reason)
    return if reason.present?

    raise Evrel::Refused.new("the drive in port #{attached.port} needs a decision: #{verdict.reason.title}",
                             where: 'reason', hint: 'say why what is on it may be lost')
  end

  def record(kind, text) = Event.add(kind, text, technician: @technician, data: { drive: @drive.id })
end
