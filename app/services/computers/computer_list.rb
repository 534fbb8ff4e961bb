# frozen_string_literal: true

# The computers that are known here, a page at a time, by name.
class ComputerList
  PAGE = 60
  MOST = 250

  # @param params [Hash] "q" (words), "aside" ("yes": those put aside, too), "from", "count"
  def initialize(params)
    @params = params
  end

  # @return [Hash] computers, total, from
  def page
    found = Words.likes(@params['q'].to_s).reduce(scope) do |all, like|
      all.where('CONCAT_WS(" ", name, place, owner, maker, model, serial, system_identity) LIKE ?', like)
    end
    rows = found.order(:name, :id).offset(from).limit((@params['count'] || PAGE).to_i.clamp(1, MOST)).to_a
    { computers: with_counts(rows), total: found.count, from: }
  end

  private

  def scope = @params['aside'] == 'yes' ? Computer.all : Computer.in_use
  def from = [@params['from'].to_i, 0].max

  def with_counts(rows)
    ids = rows.map(&:id)
    images = Image.there.where(computer_id: ids).group(:computer_id).pluck(:computer_id, Arel.sql('COUNT(*), MAX(taken_at)'))
                  .to_h { |id, count, newest| [id, [count, newest]] }
    dockets = Docket.where(computer_id: ids, closed_at: nil).group(:computer_id).count
    rows.map do |one|
      count, newest = images[one.id]
      { id: one.id, name: one.name, place: one.place, owner: one.owner, model: [one.maker, one.model].compact.join(' ').presence,
        firmware: one.firmware, aside: !one.retired_at.nil?, images: count || 0, newest: newest&.utc&.iso8601, open: dockets[one.id] || 0 }
    end
  end
end
