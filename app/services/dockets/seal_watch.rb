# frozen_string_literal: true

# Breaks the seals whose evidence has changed.
class SealWatch
  def initialize(docket)
    @docket = docket
  end

  # @return [void]
  def check
    return if @docket.writing? || @docket.closed_at

    Docket::STATIONS.each do |name|
      next unless @docket.sealed?(name)

      because = Stations::Station.for(name, @docket).broken_evidence or next
      return @docket.break_seals(name, because:)
    end
  end
end
