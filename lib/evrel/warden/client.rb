# frozen_string_literal: true

require 'json'
require 'socket'

module Evrel
  module Warden
    # Asks the warden for a drive.
    class Client
      PATIENCE = 30 # seconds: a device may have to wake up

      # @param path [String] of its socket
      def initialize(path)
        @path = path
      end

      # @param drive [Bench::Drive]
      # @param docket [String, nil] number of the docket for which it is written to
      # @return [File] open for reading and writing
      # @raise [NotFound, Away, Refused, Unsupported, Unreadable] as the warden says
      def open(drive, docket: nil)
        UNIXSocket.open(@path) do |line|
          line.puts(JSON.generate(bench: drive.bench.name, port: drive.port, key: drive.key, capacity: drive.capacity, docket:))
          given(line) || raise(silent)
        end
      rescue SystemCallError, JSON::ParserError
        raise silent
      end

      private

      def given(line)
        return unless line.wait_readable(PATIENCE)

        text, _, _, control = line.recvmsg(LONGEST, 0, nil, scm_rights: true)
        told = JSON.parse(text)
        raise error(told) if told['error']

        control&.unix_rights&.first.then { |io| io && owned(io) }
      end

      # As a file, which closes the descriptor.
      def owned(io)
        io.autoclose = false
        ::File.for_fd(io.fileno, 'r+b')
      end

      def error(told)
        (Error.named(told['error']) || Unreadable).new(told['message'], where: told['where'], hint: told['hint'])
      end

      def silent = Unreadable.new('the warden, which opens drives, does not answer', where: 'warden', hint: 'run bin/start again')
    end
  end
end
