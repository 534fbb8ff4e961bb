# frozen_string_literal: true

# Keeps the machine from going to sleep in the middle of a write, where it has
# something that can (systemd-inhibit).
module Awake
  COMMAND = ['systemd-inhibit', '--what=sleep:idle', '--who=Evrel', '--why=A disk is being written', '--mode=block', 'cat'].freeze

  module_function

  # @yield and gives what the block gives; without such a program it is only yielded
  def while
    line = hold
    yield
  ensure
    line&.close # the end of its input ends it
  end

  def hold
    IO.popen(COMMAND, 'w', err: File::NULL, out: File::NULL)
  rescue SystemCallError
    nil
  end
end
