# frozen_string_literal: true

# What a write was said to take: low and high in seconds, measured from so many
# writes, with a probability; past is what they were like (Estimate::Past), orders
# the seconds of each by its id.
WriteTime = Struct.new(:low, :high, :measured, :probability, :past, :orders, keyword_init: true) do
  def initialize(past: [], orders: {}, **rest)
    super(past: past.map do |one|
      one.is_a?(Hash) ? Evrel::Restore::Estimate::Past.new(**one.transform_keys(&:to_sym)) : one
    end, orders:, **rest)
  end

  def to_h = super.merge(past: past.map(&:to_h))
end
