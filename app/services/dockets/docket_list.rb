# frozen_string_literal: true

# The list of dockets, a page at a time: what is being written, what waits for
# somebody (whoever waits longest first), and what was signed off.
class DocketList
  PAGE = 60
  MOST = 250 # at once, where a page asks for all that it shows already
  GROUPS = { 'writing' => 0, 'waiting' => 1, 'closed' => 2 }.freeze
  WRITING = 'EXISTS (SELECT 1 FROM writes WHERE writes.living_docket_id = dockets.id)'
  RANK = "CASE WHEN dockets.closed_at IS NOT NULL THEN 2 WHEN #{WRITING} THEN 0 ELSE 1 END".freeze
  # What a row shows of seals and writes; evidence and curves of speed are large.
  SEAL = %i[id docket_id station summary technician_id created_at broken_at].freeze
  WRITE = %i[id docket_id seal_id state progress created_at].freeze

  # Dockets in whose texts all of these words stand.
  # @param scope [ActiveRecord::Relation]
  # @param text [String]
  # @return [ActiveRecord::Relation]
  def self.with_words(scope, text)
    Words.likes(text).reduce(scope) { |found, like| found.where('dockets.words LIKE ?', like) }
  end

  # @param params [Hash] "q" (words), "group" (of GROUPS), "from", "count"
  def initialize(params)
    @params = params
  end

  # @return [Hash] dockets, total, from, and groups (name → how many)
  def page
    found = with_group(self.class.with_words(Docket.all, @params['q'].to_s))
    order = Arel.sql("#{RANK}, IF(dockets.closed_at IS NULL, dockets.id, -dockets.id)")
    rows = found.includes(:computer, :waits_for_technician).order(order).offset(from).limit(count).to_a
    lighten(rows)
    { dockets: rows.map { |docket| DocketView.row(docket) }, total: found.count, from:, groups: }
  end

  private

  def from = [@params['from'].to_i, 0].max
  def count = (@params['count'] || PAGE).to_i.clamp(1, MOST)

  def with_group(scope)
    rank = GROUPS[@params['group']]
    rank ? scope.where(Arel.sql("#{RANK} = #{rank}")) : scope
  end

  def groups
    counts = Docket.group(Arel.sql(RANK)).count
    GROUPS.transform_values { |rank| counts.fetch(rank, 0) }
  end

  def lighten(dockets)
    ids = dockets.map(&:id)
    seals = Seal.where(docket_id: ids, broken_at: nil).select(*SEAL).includes(:technician).group_by(&:docket_id)
    writes = Write.where(docket_id: ids).select(*WRITE).group_by(&:docket_id)
    dockets.each do |docket|
      docket.association(:seals).target = seals.fetch(docket.id, [])
      docket.association(:writes).target = writes.fetch(docket.id, [])
    end
  end
end
