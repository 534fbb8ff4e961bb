# frozen_string_literal: true

# Opens a station that was sealed, and with it all that was built on it.
class Unseal
  # @param docket [Docket]
  # @param from [String] station
  # @param because [String] for the record
  # @param by [Technician, nil] nobody where the evidence changed by itself
  # @raise [Evrel::Refused] while a write runs; for a docket that is signed off, for anybody but a lead
  def self.from(docket, station, because:, by: nil) = new(docket, because, by).from(station)

  def initialize(docket, because, by)
    @docket = docket
    @because = because
    @by = by
  end

  # @see Unseal.from
  def from(station)
    @docket.transaction do
      @docket.one_at_a_time
      raise Evrel::Refused.new('a write is running', hint: 'stop it first') if @docket.writing?

      may_reopen!

      broken = Docket::STATIONS.drop(Docket::STATIONS.index(station)).filter_map { |name| @docket.seal(name) }
      give_up(broken)
      @docket.update!(closed_at: nil)
      @docket.seals.reset
      Event.add('seal_broken', "#{station.capitalize} unsealed: #{@because}", docket: @docket, technician: @by) if broken.any?
    end
  end

  private

  # What somebody has answered for with their name is not taken back by anybody.
  def may_reopen!
    return if @docket.closed_at.nil? || @by.nil? || @by.lead?

    raise Evrel::Refused.new('the docket is signed off', where: 'docket', hint: 'a lead opens it again')
  end

  def give_up(broken)
    stations = broken.map(&:station)
    DriveLock.release(@docket.target) if stations.include?('target') && @docket.target
    broken.each { |seal| seal.break(@because, @by) }
    forget_layout(stations)
  end

  # What was made for another image, target or layout.
  def forget_layout(stations)
    ActiveRecord.after_all_transactions_commit { @docket.writes.each(&:clear_scratch) } if stations.include?('layout')
    return unless stations.intersect?(%w[image target])

    @docket.update!(layout_draft: nil, write_options: nil)
    @docket.layout_tries.each(&:discard)
  end
end
