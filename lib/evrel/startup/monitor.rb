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
      def picture(file) = command('screendump', filename: ::File.expand_path(file), format: 'png')

      # @param keys [Array<String>] pressed at the same time
      # @return [Boolean]
      def press(keys) = keys.any? && command('send-key', keys: keys.map { |key| { type: 'qcode', data: key } })

      # @return [Integer] bytes that all disks have given and taken; 0 where it does not answer
      def disk_bytes
        asked('query-blockstats') do |reply|
          reply['return'].to_a.sum { |one| one.fetch('stats', {}).values_at('rd_bytes', 'wr_bytes').sum(&:to_i) }
        end || 0
      end

      private

      # A picture is welcome, and so is a key, but the outcome does not hang on them.
      def command(name, **arguments) = asked(name, **arguments) { |reply| !reply.key?('error') } || false

      # @yieldparam reply [Hash]
      # @return [Object, nil] what the block makes of it; nil where there is none
      def asked(name, **arguments)
        UNIXSocket.open(@path) do |socket|
          answer(socket) # the greeting
          call(socket, 'qmp_capabilities')
          yield call(socket, name, **arguments)
        end
      rescue SystemCallError, IOError, JSON::ParserError, Timeout::Error
        nil
      end

      def call(socket, name, **arguments)
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
