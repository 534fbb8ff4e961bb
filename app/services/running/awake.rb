# frozen_string_literal: true

# Keeps the machine from going to sleep in the middle of a write, where it has
# something that can (systemd-inhibit).
module Awake
  COMMAND = ['systemd-inhibit', '--what=sleep:idle', '--who=Evrel', '--why=A disk is being written', '--mode=block', 'cat'].freeze

  module_function

  # @yield and gives what the block gives; without such a program it is only yielded
  def while
    line, program = hold
    yield
  ensure
    line&.close # the end of its input ends it
    Process.wait(program) if program
  end

  def hold
    theirs, line = IO.pipe
    [line, Evrel::Tool.beside(*COMMAND, redirections: { in: theirs, %i[out err] => File::NULL })]
  rescue Evrel::Unreadable
    line.close
    nil
  ensure
    theirs.close
  end
end
