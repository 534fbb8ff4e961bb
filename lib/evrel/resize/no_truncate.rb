# frozen_string_literal: true

require 'fiddle'

module Evrel
  module Resize
    # Runs a command that cannot shorten a file. resize2fs(8) cuts a plain file
    # off behind the volume that it has resized, even where that is one of many
    # in the file: everything behind it would be gone. The kernel answers EPERM
    # to truncate and ftruncate instead (seccomp(2), filter mode); the tool says
    # so and goes on.
    module NoTruncate
      PRCTL = Fiddle::Function.new(Fiddle.dlopen(nil)['prctl'], [Fiddle::TYPE_INT] + ([Fiddle::TYPE_LONG] * 4), Fiddle::TYPE_INT)
      PR_SET_SECCOMP = 22
      PR_SET_NO_NEW_PRIVS = 38
      # <linux/audit.h>, and the numbers of truncate and ftruncate.
      CALLS = { 'x86_64' => [0xC000_003E, 76, 77], 'aarch64' => [0xC000_00B7, 45, 46] }.freeze
      # <linux/bpf_common.h>: load a word, jump if equal, return; what seccomp(2) returns.
      LOAD = 0x20
      JUMP = 0x15
      RETURN = 0x06
      ALLOW = 0x7FFF_0000
      EPERM = 0x0005_0001

      module_function

      # @return [Array<(String, Integer)>] what it printed, exit code
      # @raise [Unsupported] where no filter is known for this machine
      # @raise [Errno::ENOENT] no such command
      def capture(environment, *command)
        filter = filter()
        reader, writer = IO.pipe
        child = fork { in_child(filter, environment, command, reader, writer) }
        writer.close
        said = reader.read
        _, status = Process.wait2(child)
        raise Errno::ENOENT, command.first if status.exitstatus == 127 && said.empty?

        [said, status.exitstatus || 128]
      ensure
        reader&.close
      end

      def in_child(filter, environment, command, reader, writer)
        reader.close
        program = [filter.size, Fiddle::Pointer[filter.join].to_i].pack('Sx6Q')
        exit!(126) unless PRCTL.call(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0).zero? &&
                          PRCTL.call(PR_SET_SECCOMP, 2, Fiddle::Pointer[program].to_i, 0, 0).zero?
        exec(environment, *command, in: ::File::NULL, %i[out err] => writer)
      rescue SystemCallError
        exit!(127)
      end

      # struct sock_filter: code, jump if true, jump if false, value
      def filter
        architecture, *calls = CALLS.fetch(RbConfig::CONFIG['host_cpu']) { |cpu| raise Unsupported.new("no volume is resized in place on #{cpu}", where: cpu) }
        [[LOAD, 0, 0, 4], [JUMP, 0, 3, architecture], [LOAD, 0, 0, 0], [JUMP, 2, 0, calls[0]], [JUMP, 1, 0, calls[1]],
         [RETURN, 0, 0, ALLOW], [RETURN, 0, 0, EPERM]].map { |one| one.pack('SCCL') }
      end
      private_class_method :in_child, :filter
    end
  end
end
