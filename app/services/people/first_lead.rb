# frozen_string_literal: true

require 'openssl'
require 'securerandom'

# An Evrel in which nobody works yet: whoever reads the code in the terminal
# that it was started from becomes its first lead.
module FirstLead
  FILE = 'first-code'

  module_function

  # @return [Boolean] whether there is nobody yet
  def missing? = Technician.none?

  # @return [String, nil] the code, made at the first start; nil where somebody works here already
  def code
    file = Config.path(FILE)
    return FileUtils.rm_f(file).then { nil } unless missing?

    File.write(file, SecureRandom.alphanumeric(20).downcase.scan(/.{5}/).join('-'), perm: 0o600) unless File.exist?(file)
    File.read(file)
  end

  # @param given [Hash] code, sign_in, name, password
  # @return [Technician]
  # @raise [Gate::Closed, Evrel::Refused]
  def make(given)
    raise Evrel::Refused, 'somebody works here already: sign in, or ask a lead' unless missing?
    raise Gate::Closed, 'that is not the code in the terminal' unless code?(given['code'].to_s)

    person, = PeopleKeeper.new(nil).add(given.slice('sign_in', 'name').merge('role' => 'lead'))
    PasswordRule.hold!(given['password'].to_s, person)
    person.update!(password: given['password'].to_s, link_digest: nil, link_until: nil)
    FileUtils.rm_f(Config.path(FILE))
    person
  end

  def code?(given)
    known = File.read(Config.path(FILE)).strip
    OpenSSL.fixed_length_secure_compare(SignIn.digest_of(known), SignIn.digest_of(given.strip.downcase))
  rescue Errno::ENOENT
    false
  end
end
