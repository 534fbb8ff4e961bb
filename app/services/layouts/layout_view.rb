# frozen_string_literal: true

# A layout as the pages see it. Parts carry the number that they have in the
# image, so that the same part is found on both cores; parts that stay on the
# target carry the negative of theirs.
class LayoutView
  # @param layout [DocketLayout]
  def initialize(layout)
    @layout = layout
    @plan = layout.plan
  end

  # @return [Hash]
  def view
    { after: after, wish: @plan.wish.to_h, way: @plan.wish.way, valid: @plan.valid?, digest: @plan.digest,
      problem: problem, remedies: @layout.remedies, proposal: { wish: @layout.proposal.first, why: @layout.proposal.last },
      scratch_bytes: @plan.scratch_bytes, rewrites: @layout.rewrites }
  end

  # @return [Array<Hash>] parts as they come to lie on the target
  def parts = @plan.places.empty? ? whole : @plan.places.map { |place| part(place) }

  private

  def after
    target = @layout.target
    { parts:, size_bytes: target.size, free_at_end: @plan.free_at_end, sector: target.sector, unit:,
      limit_bytes: @plan.limit, table: @plan.table&.kind || @layout.source.kind }
  end

  # Bytes on which dragged parts come to lie.
  def unit = @plan.wish.align == 'image' ? @layout.target.sector : Evrel::MIB

  def problem
    found = @plan.problem or return
    { title: found.title, message: found.detail, part: found.part }
  end

  # A disk without a table that is known is written as it is.
  def whole
    @layout.docket.source.document.parts.map do |one|
      size = one['size_bytes']
      one.deep_symbolize_keys.merge(number: 1, to_number: 1, change: 'as is', how: 'copy', kept: false, resizable: false,
                                    reason: 'Without a partition table nothing of it can be resized', least_bytes: size,
                                    most_bytes: nil, image_bytes: size)
    end
  end

  def part(place)
    part = place.part
    limits = part.limits
    { number: place.kept? ? -place.number : part.number, to_number: place.number, name: part.word, role: part.role,
      start_bytes: place.start, size_bytes: place.size, change: place.change, how: place.how, kept: place.kept?,
      least_bytes: [limits.least, part.size].min,
      most_bytes: limits.resizable? ? limits.most : nil, resizable: limits.resizable?, reason: limits.reason, image_bytes: part.size,
      volume: { kind: part.kind || '', label: part.volume['label'], uuid: part.volume['uuid'], size_bytes: place.size,
                block_size: part.volume['block_size'].to_i, used_bytes: part.volume['used_bytes'].to_i, clean: part.volume['clean'] } }
  end
end
