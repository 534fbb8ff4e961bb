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

      # @param file [String] where the picture goes, as a portable pixmap
      # @return [Boolean] whether it was taken
      def frame(file) = command('screendump', filename: ::File.expand_path(file))

      # @param address [Integer]
      # @param bytes [Integer]
      # @param file [String] where they go
      # @return [Boolean]
      def memory(address, bytes, file) = command('pmemsave', val: address, size: bytes, filename: ::File.expand_path(file))

      # Where the picture of a graphics card in text mode begins: registers 0x0C and 0x0D behind port 0x3D4. Which register
      # the system had chosen there stands again afterwards, and it does not notice.
      # @return [Integer, nil] characters from the beginning of its memory
      def text_start
        session do |socket|
          call(socket, 'stop')
          chosen = port(socket, 'i /b 0x3d4')
          high, low = %w[0x0c 0x0d].map { |register| port(socket, "i /b 0x3d4.#{register}") }
          by_hand(socket, "o /b 0x3d4 #{chosen}")
          (high << 8) | low
        ensure
          call(socket, 'cont')
        end
      end

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
      def asked(name, **arguments) = session { |socket| yield call(socket, name, **arguments) }

      # @return [Object, nil] what the block gives; nil where the machine has ended, or does not answer
      def session
        UNIXSocket.open(@path) do |socket|
          answer(socket) # the greeting
          call(socket, 'qmp_capabilities')
          yield socket
        end
      rescue SystemCallError, IOError, JSON::ParserError, Timeout::Error
        nil
      end

      def by_hand(socket, line) = call(socket, 'human-monitor-command', 'command-line': line)['return'].to_s

      # @return [Integer] a byte that a port gave
      def port(socket, line) = by_hand(socket, line)[/= 0x(\h+)/, 1].to_s.hex

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
