# frozen_string_literal: true

# Why a write stopped where somebody can decide, as it is kept with the write.
# side and kind are those of Evrel::Restore::Trouble; choices are what can be done.
WriteStop = Struct.new(:side, :kind, :message, :where, :part, :part_name, :cluster, :offset, :files, :choices, keyword_init: true) do
  # @param id [String]
  # @return [WriteStop::Choice, nil]
  def choice(id) = choices.find { |one| one.id == id }

  def initialize(choices: [], files: [], **rest)
    super(choices: choices.map { |one| one.is_a?(WriteStop::Choice) ? one : WriteStop::Choice.new(**one.to_h.transform_keys(&:to_sym)) },
          files:, **rest)
  end

  def to_h = super.merge(choices: choices.map { |one| one.to_h.compact })
end

# id names it among the others; choice says what it is, as in WriteDecision, or 'again'.
WriteStop::Choice = Struct.new(:id, :choice, :image_id, :title, :detail, keyword_init: true)
