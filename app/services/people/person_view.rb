# frozen_string_literal: true

# People as the pages show them.
module PersonView
  module_function

  # @return [Hash] for others who work here
  def of(person)
    { id: person.id, sign_in: person.sign_in, name: person.name, short_name: person.short_name, initials: person.initials,
      role: person.role, disabled: !person.disabled_at.nil?, waits: person.password_digest.nil?,
      link_until: person.link_digest && person.link_until&.iso8601, sign_ins: sign_ins(person) }
  end

  # @return [Hash] for themselves
  def own(person)
    { id: person.id, sign_in: person.sign_in, name: person.name, short_name: person.short_name, initials: person.initials,
      role: person.role, preferences: PeopleKeeper.wishes(person) }
  end

  # @return [Array<Hash>] where they are signed in
  def sign_ins(person, own: nil)
    person.sign_ins.order(active_at: :desc).select(&:good?).map do |one|
      { id: one.id, peer: one.peer, agent: one.agent, since: one.created_at.iso8601, active_at: one.active_at.iso8601,
        this: one.id == own&.id }
    end
  end
end
