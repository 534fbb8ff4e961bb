# frozen_string_literal: true

require 'zxcvbn'

# What a password has to be: long, and none that is guessed early.
module PasswordRule
  SHORTEST = 12 # characters
  # bcrypt reads no more than that.
  LONGEST = 72 # bytes
  # Of 0 to 4: what is below is found with a million guesses.
  LEAST_SCORE = 2

  module_function

  # @param password [String]
  # @param technician [Technician] whose names it must not be made of
  # @raise [Evrel::Refused]
  def hold!(password, technician)
    refuse("a password has at least #{SHORTEST} characters", 'three or four words that do not belong together are good ones') \
      if password.length < SHORTEST
    refuse("a password has at most #{LONGEST} bytes") if password.bytesize > LONGEST
    return if Zxcvbn.test(password, [technician.name, *technician.name.split, technician.sign_in, 'evrel']).score >= LEAST_SCORE

    refuse('that password is among the first that somebody would try', 'three or four words that do not belong together are good ones')
  end

  def refuse(message, hint = nil)
    raise Evrel::Refused.new(message, where: 'password', hint:)
  end
  private_class_method :refuse
end
