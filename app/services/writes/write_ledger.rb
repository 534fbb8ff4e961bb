# frozen_string_literal: true

# The facts beside a write that was begun: how it goes, and what came of it.
class WriteLedger
  # @param write [Write]
  def initialize(write)
    @write = write
  end

  # @return [Array<Evrel::Fact>]
  def facts = @write.state == 'done' ? after : during

  private

  def during
    [state, *decided, retries, fact('lock', :ok, 'Locked to this docket', 'No other docket can use the drive'),
     fact('table', :ask, 'No partition table on it yet', 'It is written last, so that a broken write never looks whole')]
  end

  def state
    return fact('errors', :no, 'It stopped', @write.error.upcase_first) if @write.state == 'failed'
    return fact('errors', :ask, @write.state == 'paused' ? 'Paused' : 'Stopped as asked', 'It goes on from here') if @write.can_go_on?

    if @write.progress.to_h['back']
      return fact('errors', :ask, 'The drive that is read is failing', 'What it did not give at once is asked for again')
    end

    fact('errors', :ok, 'No errors so far', 'Every cluster matched its checksum')
  end

  def retries
    source, target = @write.progress.to_h.values_at('source_retries', 'target_retries').map(&:to_i)
    again = (source + target).positive?
    fact('retries', again ? :ask : :ok, again ? 'Some things were asked for twice' : 'Nothing was asked for twice',
         "#{times(source)} on the shelf, #{times(target)} on the target")
  end

  def times(count) = "#{count} #{count == 1 ? 'retry' : 'retries'}"

  def decided
    @write.decisions.to_a.map { |one| fact("decided-#{one.choice}", :ask, one.title, "Decided by #{one.by}") }
  end

  def after
    [verified, time, skipped, *late, *whole, *not_grown, *twice, *spared, *decided, retries]
  end

  def late
    count = summary['late'].to_i
    return [] if count.zero?

    [fact('late', :ask, 'The drive that was read is failing',
          "#{Evrel::Units.count(count)} #{count == 1 ? 'cluster was' : 'clusters were'} left until all else was written")]
  end

  # A map that is not believed leaves nothing out.
  def whole
    @write.source.document.doubtful.map do |part|
      fact("whole-#{part['number']}", :ask, "#{ImageWords.part_name(part)}: its map was not believed",
           "#{part['volume']['doubts'].first.upcase_first}; what it calls free was written too")
    end
  end

  # Its partition is as large as planned, its volume as in the image.
  def not_grown
    summary['not_grown'].to_h.map do |number, why|
      fact("not-grown-#{number}", :ask, "Partition #{number} could not be grown", "It is as large as in the image: #{why}")
    end
  end

  def verified
    return fact('verified', :no, 'It does not match', "#{@write.mismatches.size} places differ") unless @write.verified

    fact('verified', :ok, 'Read back, all matches', "#{Evrel::Units.count(@write.progress['compared'].to_i)} clusters compared")
  end

  def time
    low, high = @write.expected.to_h.values_at(:low, :high)
    fact('time', :ok, "#{Words.span(@write.seconds)} in all",
         low ? "Said #{Words.span(low)} to #{Words.span(high)}" : 'The first write measured here')
  end

  def summary = @write.summary.to_h

  def skipped
    without = summary['without'].to_a
    return fact('skipped', :ask, 'A part was left out', "Part #{without.join(', ')} is empty") if without.any?

    zeros = summary['taken'].to_a.count { |one| one['how'] == 'zeros' }
    return fact('skipped', :ask, 'Zeros stand in some places', "#{zeros} clusters, as it was decided") if zeros.positive?

    fact('skipped', :ok, 'Nothing was skipped', 'No unread cluster')
  end

  def twice
    count = summary['rewritten'].to_i
    return [] if count.zero?

    [fact('rewritten', :ask, 'Some places were written twice', "#{count} did not read back the first time: watch this drive")]
  end

  def spared
    bytes = summary['spared'].to_i
    bytes.positive? ? [fact('spared', :ok, "#{Evrel::Units.bytes(bytes)} was there already", 'Compared, and not written')] : []
  end

  def fact(id, state, title, detail) = Evrel::Fact.new(id:, state:, title:, detail:)
end
