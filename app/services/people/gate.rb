# frozen_string_literal: true

require 'bcrypt'
require 'securerandom'

# Where people come in: by a name and a password, or by a link that works once.
# Whoever guesses is slowed down, by name and by address, and learns nothing
# about who works here, neither by what is said nor by how long it takes.
class Gate
  # Refused, and remembered although it was refused.
  class Closed < Evrel::Refused
    def counts? = true
  end

  # Too often of late.
  class Slowed < Evrel::Refused; end

  # What a password is held against where there is nobody of that name.
  NOBODY = BCrypt::Password.create(SecureRandom.hex(16), cost: ActiveModel::SecurePassword.min_cost ? BCrypt::Engine::MIN_COST : BCrypt::Engine.cost).to_s

  # @param peer [String] address of the other end of the line
  # @param agent [String] as the browser calls itself
  def initialize(peer:, agent:)
    @peer = peer
    @agent = agent
  end

  # @return [(SignIn, String)] and its secret
  # @raise [Closed, Slowed]
  def by_password(name, password)
    slow_down(name)
    found = Technician.at_work.where.not(password_digest: nil).find_by(sign_in: name.strip.downcase)
    right = BCrypt::Password.new(found ? found.password_digest : NOBODY) == password
    refuse(name, found, 'that sign-in and password do not go together') unless found && right
    let_in(found)
  end

  # @param code [String] out of a link
  # @param password [String] from now on
  # @return [(SignIn, String)] and its secret
  # @raise [Closed, Slowed, Evrel::Invalid]
  def by_link(code, password)
    slow_down(code)
    found = Technician.at_work.where(link_until: Time.now..).find_by(link_digest: SignIn.digest_of(code))
    refuse(code, nil, 'that link is used up, or too old: a lead can make another one') unless found
    PasswordRule.hold!(password, found)
    found.update!(password:, link_digest: nil, link_until: nil)
    found.sign_ins.delete_all
    let_in(found)
  end

  # Ends one, by whoever it belongs to.
  def self.out(sign_in)
    Event.add('signed_out', "#{sign_in.technician.name} signed out", technician: sign_in.technician)
    sign_in.delete
  end

  private

  def slow_down(name)
    return unless SignInFailure.too_many?(name, @peer)

    raise Slowed, "too many attempts: wait #{SignInFailure::PERIOD} s"
  end

  def refuse(name, found, message)
    SignInFailure.note(name, @peer)
    Event.add('sign_in_failed', "A sign-in failed#{" for #{found.name}" if found}", technician: found)
    raise Closed, message
  end

  def let_in(technician)
    Event.add('signed_in', "#{technician.name} signed in", technician:)
    SignIn.begin(technician, peer: @peer, agent: @agent)
  end
end
