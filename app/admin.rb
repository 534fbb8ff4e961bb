# frozen_string_literal: true

require_relative 'boot'

# The commands of bin/evrel-admin.
module Admin
  USAGE = <<~TEXT
    Usage: bin/evrel-admin technician list
           bin/evrel-admin technician add SIGN-IN NAME [reader|technician|lead]
           bin/evrel-admin technician reset SIGN-IN
           bin/evrel-admin technician disable SIGN-IN
           bin/evrel-admin backup FILE            all that would be missed, in one archive that is checked
           bin/evrel-admin restore FILE           into an Evrel in which nobody works yet
  TEXT

  module_function

  # @param arguments [Array<String>]
  # @return [Integer] exit code: 0, 1 refused, 2 not understood
  def run(arguments)
    what, command, *given = arguments
    return send(what, command) if %w[backup restore].include?(what) && command && given.empty?
    return usage unless what == 'technician' && (counts = { 'list' => 0..0, 'add' => 2..3, 'reset' => 1..1, 'disable' => 1..1 }[command])
    return usage unless counts.cover?(given.size)

    send(command, *given)
    0
  rescue Evrel::Error, ActiveRecord::RecordInvalid => e
    warn [e.message.sub('Validation failed: ', ''), e.try(:hint)].compact.join('; ')
    1
  rescue ActiveRecord::ConnectionNotEstablished, Errno::ENOENT
    warn 'The database does not answer: start Evrel first (bin/start).'
    1
  end

  def backup(file) = told(Backup.write(file), "kept in #{file}")
  def restore(file) = told(Backup.restore(file), 'restored; start Evrel again')

  def told(what, how)
    puts "#{what[:tables].values.sum} rows of #{what[:tables].size} tables and #{what[:files]} files #{how}."
    0
  end

  def usage
    warn USAGE
    2
  end

  def list
    Technician.order(:name).each do |one|
      state = if one.disabled_at then 'may not sign in'
              elsif one.password_digest.nil? then 'has no password yet'
              end
      puts [one.sign_in.ljust(16), one.role.ljust(10), one.name, state].compact.join('  ')
    end
  end

  def add(sign_in, name, role = 'technician') = say(*keeper.add('sign_in' => sign_in, 'name' => name, 'role' => role))
  def reset(sign_in) = known(sign_in).then { |person| say(person, keeper.reset(person)) }
  def disable(sign_in) = keeper.change(known(sign_in), 'disabled' => true)

  def known(sign_in)
    Technician.find_by(sign_in:) || raise(Evrel::Refused, "nobody signs in as #{sign_in}: see bin/evrel-admin technician list")
  end

  def keeper = PeopleKeeper.new(nil)

  # Where they choose their password.
  def say(person, code)
    puts "#{person.name} chooses a password at http://127.0.0.1:#{ENV.fetch('EVREL_PORT', '8740')}/link##{code} until " \
         "#{person.link_until.getlocal.strftime('%Y-%m-%d %H:%M')}; it works once."
  end
end

exit Admin.run(ARGV) if $PROGRAM_NAME == __FILE__
