# frozen_string_literal: true

require 'socket'
require 'tmpdir'

module Evrel
  module Disk
    # Lends a disk to tools that know no Ruby, to read: an NBD server on a
    # socket of its own (the NBD protocol, doc/proto.md of the NBD project:
    # fixed newstyle handshake, simple replies). Each line has a thread.
    class Served
      FIXED_NEWSTYLE = 1
      NO_ZEROES = 2
      ABORT = 2 # NBD_OPT_ABORT
      HAS_FLAGS = 1
      READ_ONLY = 2
      UNKNOWN_OPTION = (1 << 31) + 1 # NBD_REP_ERR_UNSUP
      DISCONNECT = 2       # NBD_CMD_DISC
      FAILED = 5           # EIO
      REFUSED = 22         # EINVAL
      MOST_OPTION = 64 * KIB
      MOST = 32 * MIB      # of one request

      # @param disk [Disk] safe to read from several threads
      # @yieldparam uri [String] as qemu's tools take it
      # @yieldparam served [Served]
      def self.over(disk)
        Dir.mktmpdir('evrel-lent') do |folder|
          socket = ::File.join(folder, 'disk')
          served = new(disk, socket)
          yield "nbd+unix:///?socket=#{socket}", served
        ensure
          served&.close
        end
      end

      # @return [Error, nil] why a request could not be answered, the first one
      attr_reader :trouble

      # @param socket [String] path that it listens at
      def initialize(disk, socket)
        @disk = disk
        @socket = socket
        @server = UNIXServer.new(socket)
        @lines = []
        @listens = Thread.new { listen }
      end

      # @param name [String] of the node
      # @return [String] it as qemu's tools take it with --blockdev
      def blockdev(name) = "driver=nbd,node-name=#{name},read-only=on,server.type=unix,server.path=#{@socket}"

      def close
        @listens.kill
        @server.close
        @lines.each(&:kill)
      end

      private

      def listen
        loop do
          line = @server.accept
          @lines << Thread.new { serve(line) }
        end
      end

      def serve(line)
        answer(line) if shaken(line)
      rescue SystemCallError, IOError
        nil # the other side has gone
      ensure
        line.close
      end

      # @return [Boolean] whether the other side wants the disk
      def shaken(line)
        line.write(Nbd::MAGIC + Nbd::OPTION + [FIXED_NEWSTYLE | NO_ZEROES].pack('n'))
        take(line, 4)
        loop do
          magic, option, length = take(line, 16).unpack('a8NN')
          return false if magic != Nbd::OPTION || length > MOST_OPTION || option == ABORT

          take(line, length)
          next reply(line, option, UNKNOWN_OPTION) unless option == Nbd::GO

          reply(line, option, Nbd::INFO, [Nbd::EXPORT, @disk.size, HAS_FLAGS | READ_ONLY].pack('nQ>n'))
          reply(line, option, Nbd::ACK)
          return true
        end
      end

      def answer(line)
        loop do
          magic, _, kind, cookie, offset, length = take(line, 28).unpack('Nnna8Q>N')
          return if magic != Nbd::REQUEST || kind == DISCONNECT || length > MOST

          bytes = read(kind, offset, length)
          line.write([Nbd::REPLY, bytes.is_a?(Integer) ? bytes : 0].pack('NN') + cookie, bytes.is_a?(Integer) ? '' : bytes)
        end
      end

      # @return [String, Integer] what lies there, or the number of an error
      def read(kind, offset, length)
        return REFUSED unless kind == Nbd::READ && offset + length <= @disk.size

        @disk.read(offset, length)
      rescue Error => e
        @trouble ||= e
        FAILED
      end

      def reply(line, option, kind, body = '') = line.write([Nbd::OPTION_REPLY, option, kind, body.bytesize].pack('Q>N3') + body)

      def take(line, length)
        return '' if length.zero?

        line.read(length).tap { |bytes| raise EOFError if bytes.to_s.bytesize < length }
      end
    end
  end
end
