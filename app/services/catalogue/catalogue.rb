# frozen_string_literal: true

# All images on all shelves: filtered, searched, a page at a time.
class Catalogue
  PAGE = 100
  GIVEN_UP = 'given_up'
  SPARE = 'spare'
  MOST = 250 # at once, where a page asks for all that it shows already
  # By the id too: of images of the same moment none is shown on two pages, and none on no page.
  SORTS = { 'taken' => { taken_at: :desc, id: :desc }, 'used' => { used_bytes: :desc, id: :desc },
            'state' => { state: :asc, taken_at: :desc, id: :desc } }.freeze

  # @param params [Hash] "q" (words), "state", "shelf" (id), "computer" (id), "sort", "from", "count"
  def initialize(params)
    @params = params
  end

  # @return [Hash] images, total, from, states (state → how many)
  def page
    found = filtered(wanted)
    from = [@params['from'].to_i, 0].max
    rows = found.select(*ImageView::ROW).includes(:computer).order(SORTS.fetch(@params['sort'], SORTS['taken'])).offset(from).limit(count)
    { images: rows.map { |image| ImageView.row(image, shelves) }, total: found.count, from:, states: }
  end

  private

  # What was given up, or could be, is told of like a state, and is none.
  def wanted
    case @params['state']
    when GIVEN_UP then Image.given_up
    when SPARE then Image.there.where(id: spare.keys)
    when nil, '' then Image.there
    else Image.there.where(state: @params['state'])
    end
  end

  def spare = @spare ||= KeepRule.new.spare

  def states
    Image.there.group(:state).count.merge({ GIVEN_UP => Image.given_up.count, SPARE => spare.size }.select { |_, count| count.positive? })
  end

  def count = (@params['count'] || PAGE).to_i.clamp(1, MOST)

  def filtered(scope)
    scope = scope.where(shelf_id: @params['shelf']) if @params['shelf'].present?
    scope = scope.where(computer_id: @params['computer']) if @params['computer'].present?
    Words.likes(@params['q']).reduce(scope) { |found, like| found.where('words LIKE ?', like) }
  end

  def shelves
    @shelves ||= Shelf.includes(:drive).to_h { |shelf| [shelf.id, { name: shelf.name, reachable: ShelfAccess.there?(shelf) }] }
  end
end
