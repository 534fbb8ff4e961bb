# frozen_string_literal: true

module Evrel
  # Processes that read and write open files for many who ask at the same time:
  # nobody waits for the interpreter's lock. They begin early, as copies of a
  # process that is still small.
  class Helpers
    # @param memory [Linux::SharedMemory, nil] what is written lies there
    # @param strength [Integer] how many processes
    def initialize(memory: nil, strength: Crew.strength)
      @memory = memory
      @idle = Queue.new
      @members = []
      @end = Queue.new
      @keeper = Thread.new { keep(strength) }
    end

    # @param io [IO] a file or a device
    # @param offsets [Array<Integer>] bytes
    # @param length [Integer] bytes
    # @return [Array<String, nil>] as Image::Digests.of, of so many bytes at each offset; nil where they cannot be read
    # @raise [Unreadable] where such a process was ended from outside
    def digests(io, offsets, length) = asked(io, :digest_all, offsets, length)

    # @param io [IO] a file or a device, open for writing
    # @param runs [Array<(Integer, Integer, Integer)>] byte offset there, byte in the memory, bytes
    # @return [Boolean] whether all of it was taken; it does not say which was not
    def write(io, runs)
      asked(io, :write_all, runs)
    rescue Unreadable
      false # whoever writes it again by itself is told
    end

    # Ends all of them at once, whatever they are at.
    def close
      @end.close
      @keeper.join
    end

    private

    def asked(io, *what)
      member = @idle.pop
      begin
        member.line.send_io(io)
        Marshal.dump(what, member.line)
        Marshal.load(member.line) # rubocop:disable Security/MarshalLoad -- our own process
      ensure
        @idle << member
      end
    rescue IOError, SystemCallError
      raise Unreadable.new('a process that read or wrote for others was ended from outside', where: 'memory', hint: 'go on')
    end

    # They end with the thread that began them, which has to last longer than whoever asks first.
    def keep(strength)
      strength.times { @members << Helper.begin(@members) { |line| serve(line) } }
      @members.each { |one| @idle << one }
      @end.pop
    ensure
      @members.each do |one|
        one.line.close
        Linux::Death.of(one.pid)
      end
    end

    def serve(line)
      loop do
        file = line.recv_io
        what = Marshal.load(line) # rubocop:disable Security/MarshalLoad -- our own process at the other end
        Marshal.dump(send(what.first, file, *what.drop(1)), line)
      ensure
        file&.close
      end
    rescue EOFError, SocketError, SystemCallError
      nil # nobody asks any more
    end

    def digest_all(file, offsets, length)
      @buffer ||= ''.b
      @blake ||= ::Digest::Blake3.new
      offsets.map do |offset|
        file.pread(length, offset, @buffer)
        @blake.update(@buffer).digest! if @buffer.bytesize == length
      rescue IOError, SystemCallError
        nil
      end
    end

    def write_all(file, runs)
      runs.each { |offset, at, length| @memory.put(file, offset, at, length) }
      true
    rescue SystemCallError
      false
    end
  end
end
