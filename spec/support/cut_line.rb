# frozen_string_literal: true

require 'socket'

# A line to a server on this machine that can be cut and mended.
class CutLine
  attr_reader :port

  # @param target [Integer] port of the server
  def initialize(target)
    @target = target
    @lines = []
    @lock = Mutex.new
    @server = TCPServer.new('127.0.0.1', 0)
    @port = @server.addr[1]
    @thread = Thread.new { loop { accept(@server.accept) } }
  end

  # All that is said now is lost, and nobody is let in.
  def cut
    @lock.synchronize do
      @cut = true
      @lines.each { |socket| hang_up(socket) }.clear
    end
  end

  def mend = @lock.synchronize { @cut = false }

  def close
    cut
    @thread.kill
    @server.close
  end

  private

  def accept(client)
    @lock.synchronize do
      next client.close if @cut

      server = TCPSocket.new('127.0.0.1', @target)
      @lines.push(client, server)
      [[client, server], [server, client]].each { |from, to| Thread.new { pass(from, to) } }
    end
  rescue SystemCallError
    client.close
  end

  # Whoever waits on it is woken by the first of the two.
  def hang_up(socket)
    socket.shutdown unless socket.closed?
    socket.close
  rescue SystemCallError, IOError
    nil # the other end was first
  end

  def pass(from, to)
    IO.copy_stream(from, to)
  rescue IOError, SystemCallError
    nil
  ensure
    [from, to].each { |socket| hang_up(socket) }
  end
end
