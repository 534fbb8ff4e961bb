# frozen_string_literal: true

require 'json'
require 'socket'
require 'timeout'

module Evrel
  module Startup
    # The emulator's control socket (QEMU Machine Protocol: lines of JSON).
    class Monitor
      PATIENCE = 10 # seconds for one answer

      def initialize(path)
        @path = path
      end

      # @param file [String] where the PNG goes
      # @return [Boolean] whether it was taken
      def picture(file)
        UNIXSocket.open(@path) do |socket|
          answer(socket) # the greeting
          command(socket, 'qmp_capabilities')
          !command(socket, 'screendump', filename: ::File.expand_path(file), format: 'png').key?('error')
        end
      rescue SystemCallError, IOError, JSON::ParserError, Timeout::Error
        false # a picture is welcome, but the outcome does not hang on it
      end

      private

      def command(socket, name, **arguments)
        socket.puts(JSON.generate({ execute: name, arguments: }))
        loop do
          reply = answer(socket)
          return reply if reply.key?('return') || reply.key?('error')
        end
      end

      def answer(socket)
        line = Timeout.timeout(PATIENCE) { socket.gets }
        raise IOError, 'the emulator closed the line' unless line

        JSON.parse(line)
      end
    end
  end
end
