# frozen_string_literal: true

require 'securerandom'

# Adds people, changes what they may do, lets them in again and out.
class PeopleKeeper
  LINK = 24.hours
  # What somebody may wish for, with what is taken where nothing is said.
  WISHES = { 'dates' => %w[day-first month-first year-first], 'clock' => %w[24 12],
             'numbers' => %w[point comma space], 'theme' => %w[system light dark],
             'sound' => %w[on off] }.freeze

  # @param by [Technician, nil] who does it; nil: somebody at the machine itself
  def initialize(by)
    @by = by
  end

  # @param given [Hash] sign_in, name, initials, role
  # @return [(Technician, String)] and the code of a link by which they set their password, which works once
  # @raise [Evrel::Refused, ActiveRecord::RecordInvalid]
  def add(given)
    made = Technician.new(role: 'technician', **given.slice('sign_in', 'name', 'initials', 'role').symbolize_keys)
    made.initials = made.name.to_s.split.filter_map { |word| word[0] }.first(2).join.upcase if made.initials.blank?
    made.save!
    note('person_added', "#{made.name} was added as #{made.role}")
    [made, link(made)]
  end

  # @param given [Hash] name, initials, role, disabled
  # @raise [Evrel::Refused] where nobody would be left to lead
  def change(person, given)
    person.assign_attributes(given.slice('name', 'initials', 'role'))
    person.disabled_at = given['disabled'] ? (person.disabled_at || Time.now.utc) : nil if given.key?('disabled')
    leads_left!(person)
    what = changes(person)
    return person if what.empty?

    person.save!
    person.sign_ins.delete_all if person.disabled_at
    note('person_changed', "#{person.name}: #{what.join(', ')}")
    person
  end

  # A new link; the password that was is gone, and whoever is signed in as them is signed out.
  # @return [String] its code
  # @raise [Evrel::Refused] where nobody would be left to lead; at the machine itself it can be done
  def reset(person)
    raise only_lead(person) if @by && leads_alone?(person)

    person.update!(password_digest: nil)
    person.sign_ins.delete_all
    note('person_reset', "#{person.name} has to choose a new password")
    link(person)
  end

  # Their own; everybody else who is signed in as them is signed out.
  # @param keep [SignIn, nil]
  # @raise [Evrel::Refused]
  def change_password(person, old, new, keep:)
    raise Evrel::Refused.new('that is not the password until now', where: 'old') unless person.authenticate(old)

    PasswordRule.hold!(new, person)
    person.update!(password: new)
    person.sign_ins.where.not(id: keep&.id).delete_all
    note('password_changed', "#{person.name} changed their password")
  end

  # @param wished [Hash] of WISHES
  def wish(person, wished)
    known = wished.select { |key, value| WISHES[key]&.include?(value) }
    person.update!(preferences: (person.preferences || {}).merge(known))
  end

  # @return [Hash] all of WISHES
  def self.wishes(person) = WISHES.to_h { |key, values| [key, person.preferences&.fetch(key, nil) || values.first] }

  # Ends one sign-in, or all of somebody.
  def sign_out(sign_ins)
    people = sign_ins.includes(:technician).map { |one| one.technician.name }.uniq
    sign_ins.delete_all
    people.each { |name| note('signed_out', "#{name} was signed out") }
  end

  private

  def link(person)
    code = SecureRandom.urlsafe_base64(24)
    person.update!(link_digest: SignIn.digest_of(code), link_until: LINK.from_now)
    code
  end

  def leads_left!(person)
    raise only_lead(person) if !(person.role == 'lead' && person.disabled_at.nil?) && leads_alone?(person)
  end

  def leads_alone?(person)
    leads = Technician.at_work.where(role: 'lead').where.not(password_digest: nil)
    leads.exists?(id: person.id) && leads.where.not(id: person.id).none?
  end

  def only_lead(person) = Evrel::Refused.new("#{person.name} is the only lead", hint: 'make somebody else a lead first')

  def changes(person)
    said = person.changes.slice('name', 'initials', 'role').map { |field, (from, to)| "#{field} #{from} → #{to}" }
    said << (person.disabled_at ? 'may not sign in any more' : 'may sign in again') if person.changed.include?('disabled_at')
    said
  end

  def note(kind, text) = Event.add(kind, text, technician: @by)
end
