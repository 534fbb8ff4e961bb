# frozen_string_literal: true

RSpec.describe Evrel::Readiness do
  day = 86_400
  now = Time.utc(2031, 3, 10, 12)

  define_method(:copy) do |days, **given|
    Evrel::Readiness::Copy.new(id: days, taken_at: now - (days * day), state: 'whole', checked_at: now - day, due: false, start: :reached,
                               started_at: now - (2 * day), needs: 200 * (10**9), unread: 0, shelf: 'Holm', attached: true, **given)
  end

  define_method(:judged) do |*copies, wish: 30, drives: [480 * (10**9)]|
    described_class.judge(copies, wish:, drives:, now:)
  end

  it 'is ready with an image that is new enough, whole, and was seen to start' do
    expect(judged(copy(3))).to have_attributes(
      state: :ready, todo: nil,
      because: 'its image is 3 days old, checked 24 h ago, seen to start 2 days ago, a drive at hand takes it'
    )
  end

  it 'is not proved by what was not checked, not started, too old, or checked too long ago' do
    { { state: 'unchecked', checked_at: nil } => [:prove, 'it was never read through'],
      { start: nil, started_at: nil } => [:prove, 'it was never seen to start'],
      { due: true, checked_at: now - (200 * day) } => [:prove, 'its check is 200 days old, it is due again'],
      { start: :open, said: 'Slow' } => [:prove, 'its start was not seen to the end 2 days ago'],
      { unread: 212 } => [:image, '212 sectors of it could not be read when it was taken'],
      { start: :not, said: 'Stuck' } => [:prove, 'it did not start 2 days ago'] }.each do |given, (todo, why)|
      expect(judged(copy(3, **given))).to have_attributes(state: :not_proved, todo:, because: start_with(why))
    end
    expect(judged(copy(41))).to have_attributes(state: :not_proved, todo: :image,
                                                because: start_with('its newest whole image is 41 days old, 30 days are wished'))
  end

  it 'is not possible without an image that could be written' do
    expect(judged).to have_attributes(state: :not_possible, todo: :image, because: 'there is no image of it', copy: nil)
    broken = judged(copy(3, state: 'damaged'), copy(9, state: 'incomplete'))
    expect(broken).to have_attributes(state: :not_possible, because: 'all its images are damaged or not all there')
  end

  it 'goes by an older image that is proved, as long as it is new enough, and says what came after it' do
    open = copy(1, state: 'unchecked', start: nil)
    verdict = judged(open, copy(2, state: 'damaged'), copy(9))
    expect([verdict.state, verdict.copy.id]).to eq([:ready, 9])
    expect(verdict.because).to include('a newer image is damaged', 'a newer one is not proved yet')
    expect(judged(open, copy(9), wish: 7)).to have_attributes(state: :not_proved, copy: open)
  end

  it 'prefers one that was read in full, as long as it is new enough' do
    verdict = judged(copy(1, unread: 212), copy(9, start: nil))
    expect([verdict.copy.id, verdict.todo]).to eq([9, :prove])
    expect(judged(copy(1, unread: 212), copy(41)).copy.id).to eq(1)
  end

  it 'says besides that no drive at hand takes it, or that its shelf is away' do
    verdict = judged(copy(3, attached: false), drives: [100 * (10**9)])
    expect(verdict).to have_attributes(state: :ready,
                                       because: start_with('shelf Holm is not attached, no drive at hand takes it: it needs 200.0 GB'))
  end

  it 'puts the worst first' do
    worst = [judged, judged(copy(3, start: :not)), judged(copy(3, start: nil)), judged(copy(3))]
    expect(worst.map(&:rank)).to eq(worst.map(&:rank).sort.uniq)
  end
end
