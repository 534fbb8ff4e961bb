# frozen_string_literal: true

require 'socket'

module Evrel
  # Processes that read open files, and give the digests of what stands there to
  # many who ask at the same time: nobody waits for the interpreter's lock. They
  # begin early, as copies of a process that is still small.
  class Digesters
    # @param strength [Integer] how many processes
    def initialize(strength: Crew.strength)
      @idle = Queue.new
      @members = []
      @end = Queue.new
      @keeper = Thread.new { keep(strength) }
    end

    # @param io [IO] a file or a device
    # @param offsets [Array<Integer>] bytes
    # @param length [Integer] bytes
    # @return [Array<String, nil>] as Image::Digests.of, of so many bytes at each offset; nil where they cannot be read
    def of(io, offsets, length)
      member = @idle.pop
      begin
        member.line.send_io(io)
        Marshal.dump([offsets, length], member.line)
        Marshal.load(member.line) # rubocop:disable Security/MarshalLoad -- our own process
      ensure
        @idle << member
      end
    rescue IOError, SystemCallError
      raise Unreadable.new('a process that read back was ended from outside', where: 'memory', hint: 'go on')
    end

    # Ends all of them at once, whatever they are at.
    def close
      @end.close
      @keeper.join
    end

    # One process, and our end of the line to it.
    Member = Struct.new(:pid, :line)

    private

    # They end with the thread that began them (PR_SET_PDEATHSIG, prctl(2)): it has to last longer than whoever asks first.
    def keep(strength)
      strength.times { @members << begun }
      @members.each { |one| @idle << one }
      @end.pop
    ensure
      @members.each do |one|
        one.line.close
        Linux::Death.of(one.pid)
      end
    end

    def begun
      ours, theirs = UNIXSocket.pair
      parent = Process.pid
      pid = Linux::Forked.fork do
        [ours, *@members.map(&:line)].each(&:close)
        Linux::Death.with_helped(parent)
        serve(theirs)
      end
      theirs.close
      Member.new(pid, ours)
    end

    def serve(line)
      buffer = ''.b
      blake = ::Digest::Blake3.new
      loop do
        file = line.recv_io
        offsets, length = Marshal.load(line) # rubocop:disable Security/MarshalLoad -- our own process at the other end
        Marshal.dump(offsets.map { |offset| digest(file, offset, length, buffer, blake) }, line)
      ensure
        file&.close
      end
    rescue EOFError, SocketError, SystemCallError
      nil # nobody asks any more
    end

    def digest(file, offset, length, buffer, blake)
      file.pread(length, offset, buffer)
      blake.update(buffer).digest! if buffer.bytesize == length
    rescue IOError, SystemCallError
      nil
    end
  end
end
