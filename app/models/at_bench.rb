# frozen_string_literal: true

# For rows whose files (journals, scratch room, pictures) lie at one bench,
# whose workers do what they stand for. Several hosts may share the database:
# what lies with another one is told, and not looked for here.
module AtBench
  def self.included(model)
    model.before_validation(on: :create) { self.bench ||= try(:drive)&.last_bench || Config.bench }
    model.scope(:here, -> { where(bench: Benches.names) })
  end

  # @return [Boolean] whether its files lie with this host
  def here? = Benches.names.include?(bench)

  # @raise [Evrel::NotFound]
  def here!
    return if here?

    raise Evrel::NotFound.new("it lies at #{bench}", where: bench, hint: 'open it at an Evrel of that bench')
  end
end
