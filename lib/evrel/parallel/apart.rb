# frozen_string_literal: true

require 'json'
require 'socket'

module Evrel
  # Work on bytes that others made, in a process of its own that ends with it:
  # whatever they do to it, they do to nothing else. What comes back is plain
  # data, bounded, and never anything that is carried out here.
  #
  # The process may take so much memory, processor time and time on the clock as
  # LIMITS say; it holds none of this one's connections, and ends with it.
  module Apart
    LIMITS = { memory: 1024 * MIB, processor: 60, seconds: 90, answer: 32 * MIB }.freeze
    PIECE = 256 * KIB
    # Kinds of what is sent before each piece: a byte, and its length (32 bits little-endian).
    BYTES = 'b'
    ANSWER = 'a'
    FAILED = 'f'
    HEAD = 5

    module_function

    # @param limits [Hash] any of LIMITS: bytes, seconds
    # @yieldparam out [#<<] what is appended to it is not kept, but see `stream`
    # @yieldreturn [Object] what JSON can say
    # @return [Object] the same, with names as texts
    # @raise [Error] as the block raises one, with its words
    # @raise [Refused] where a limit was reached
    # @raise [RuntimeError] where the block failed in another way
    def call(**limits, &) = stream(nil, **limits, &)

    # As `call`, and what the block appends goes to a receiver meanwhile.
    # @param sink [#call, nil] gets strings
    def stream(sink, **limits, &)
      limits = LIMITS.merge(limits)
      ours, theirs = IO.pipe(binmode: true)
      pid = begun(theirs, limits, &)
      theirs.close
      told(ours, sink, limits)
    ensure
      ours&.close
      Linux::Death.of(pid) if pid
    end

    # Appends pieces to a pipe.
    Out = Struct.new(:pipe) do
      def <<(bytes)
        bytes = bytes.b
        0.step(bytes.bytesize - 1, PIECE) { |at| put(BYTES, bytes.byteslice(at, PIECE)) }
        self
      end

      def put(kind, bytes) = pipe.write([kind, bytes.bytesize].pack('aV'), bytes)
    end

    class << self
      private

      def begun(theirs, limits)
        parent = Process.pid
        Linux::Forked.fork(keep: [theirs]) do
          Linux::Death.with_parent(parent)
          answer(Out.new(theirs)) do
            alone(limits)
            yield Out.new(theirs)
          end
        end
      end

      # Somebody whose connection is closed over there must not find it open here.
      def alone(limits)
        %w[INT TERM].each { |name| trap(name, 'DEFAULT') }
        Linux::Forked.held.grep(BasicSocket) { |socket| shut(socket) }
        # Programs that it starts have limits of their own, which may be higher.
        { AS: here + limits[:memory], CPU: limits[:processor], CORE: 0 }.each do |name, limit|
          Process.setrlimit(name, limit, Process.getrlimit(name).last)
        end
      end

      def shut(socket)
        socket.close
      rescue IOError
        nil # it never came to be open
      end

      # @return [Integer] bytes of addresses that are in use already: /proc/PID/statm, proc(5)
      def here = ::File.read('/proc/self/statm').to_i * 4096

      def answer(out)
        said = yield
        out.put(ANSWER, JSON.generate([said]))
      rescue Error => e
        out.put(FAILED, JSON.generate({ class: e.class.name.delete_prefix('Evrel::'), message: e.message.scrub, where: e.where&.to_s&.scrub,
                                        hint: e.hint }))
      rescue NoMemoryError
        out.put(FAILED, JSON.generate({ class: 'Refused', message: 'it takes more memory than one look may', hint: nil }))
      rescue StandardError => e
        out.put(FAILED, JSON.generate({ class: nil, message: "#{e.class}: #{e.message.scrub} (#{e.backtrace&.first})" }))
      end

      def told(pipe, sink, limits)
        till = now + limits[:seconds]
        loop do
          kind, length = read(pipe, HEAD, till).unpack('aV')
          raise Damaged.new('the process that looked into it said too much', where: 'answer') if length > limits[:answer]

          bytes = read(pipe, length, till)
          return JSON.parse(bytes).first if kind == ANSWER
          raise failure(JSON.parse(bytes)) if kind == FAILED

          sink&.call(bytes)
        end
      end

      def read(pipe, length, till)
        got = ''.b
        while got.bytesize < length
          left = [till - now, 0].max
          raise Refused.new('looking into it takes too long', where: 'time', hint: 'choose less at once') unless pipe.wait_readable(left)

          got << pipe.readpartial(length - got.bytesize)
        end
        got
      rescue EOFError
        raise Refused.new('looking into it was ended: it takes more than one look may, or what lies there is made to do harm',
                          where: 'process', hint: 'have it checked; look at another part')
      end

      # Only errors that the core raises on purpose are raised here again.
      def failure(told)
        kind = Error.named(told['class']) or return RuntimeError.new(told['message'])
        kind.new(told['message'], where: told['where'], hint: told['hint'])
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    end
  end
end
