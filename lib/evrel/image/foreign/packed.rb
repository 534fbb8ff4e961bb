# frozen_string_literal: true

require 'fileutils'

module Evrel
  module Image
    # A raw disk that was compressed as a whole: it can only be read from its
    # beginning. It is unpacked once, into a sparse file, by the tool of its
    # format, which also checks the checksums inside.
    class Packed
      # Memory is bounded: a hostile file may ask for more.
      TOOLS = { 'gzip' => %w[gzip -dc], 'zstd' => %w[zstd -dcq --memory=512MB], 'xz' => %w[xz -dc --memlimit-decompress=512MiB],
                'bzip2' => %w[bzip2 -dc] }.freeze
      PIECE = MIB
      ZEROS = "\0".b * PIECE
      # Free room that is left on the scratch file system, whatever comes.
      LEAST_ROOM = GIB
      LARGEST = 64 * (1024**4)
      WARNING = 2 # exit code of gzip for bytes behind the end

      # @param source [Disk] the compressed bytes
      # @param kind [String] a key of TOOLS
      # @param name [String] for messages
      def initialize(source, kind, name)
        @source = source
        @kind = kind
        @name = name
      end

      # @param length [Integer] bytes wanted
      # @return [String] the beginning of the disk, at most +length+ bytes
      # @raise [Damaged] where not even that can be unpacked
      def head(length)
        run do |output, _|
          bytes = output.read(length).to_s
          return bytes unless bytes.empty?
        end
        ''.b
      end

      # @param path [String] of the sparse file, which must not exist
      # @param most [Integer] bytes that it may take
      # @yieldparam done [Integer] bytes of the compressed file so far
      # @yieldparam total [Integer]; a block that returns :stop ends it
      # @return [Integer] bytes of the disk
      # @raise [Damaged] where it ends early or a checksum is wrong
      # @raise [Stopped]
      # @raise [DoesNotFit] where the scratch file system has too little room
      def unpack(path, most: LARGEST, &block)
        @most = most
        ::File.open(path, ::File::WRONLY | ::File::CREAT | ::File::EXCL | ::File::BINARY) do |file|
          Room.guard(::File.dirname(path)) { run { |output, fed| copy(output, file, fed, &block) } }
          file.size
        end
      rescue StandardError
        FileUtils.rm_f(path)
        raise
      end

      private

      def copy(output, file, fed)
        at = 0
        while (bytes = output.read(PIECE))
          Room.put(file, bytes, at) unless bytes == (bytes.bytesize == PIECE ? ZEROS : "\0".b * bytes.bytesize)
          at += bytes.bytesize
          raise DoesNotFit.new("#{@name} unpacks to more than #{Units.bytes(LARGEST)}", where: @name) if at > LARGEST

          check_room(file) if (at % (64 * PIECE)).zero?
          raise Stopped, 'stopped' if block_given? && yield(fed.call, @source.size) == :stop
        end
        within!(file)
        file.truncate(at / 512 * 512)
      end

      # What is zero takes nothing.
      def within!(file)
        return if Room.of(file.stat) <= @most

        raise DoesNotFit.new("#{@name} unpacks to more than #{Units.bytes(@most)}", where: @name, hint: 'allow more to be kept')
      end

      def check_room(file)
        within!(file)
        free = Shelf::Folder.new(::File.dirname(file.path)).room&.first
        return if free.nil? || free > LEAST_ROOM

        raise DoesNotFit.new("there is no room left to unpack #{@name}", where: ::File.dirname(file.path), hint: 'free some room')
      end

      # @yieldparam output [IO] of the tool
      # @yieldparam fed [Proc] bytes given to it so far
      def run
        fed = 0
        Tool.piped(*TOOLS.fetch(@kind)) do |input, output, errors, process|
          [input, output].each(&:binmode)
          feeder = Thread.new { feed(input) { |bytes| fed += bytes } }
          said = Thread.new { read_all(errors) }
          begin
            yield output, -> { fed }
            whole = true
          ensure
            output.close
            abandon(feeder, process) unless whole
          end
          judge(process.value, said.value, feeder)
        end
      end

      # A tool that was left in the middle is ended.
      def abandon(feeder, process)
        feeder.kill
        feeder.join
        Process.kill(:KILL, process.pid)
      rescue Errno::ESRCH
        nil # it has ended by itself
      end

      def read_all(errors)
        errors.read
      rescue IOError
        '' # the tool was ended, and what it says does not matter any more
      end

      def feed(input)
        at = 0
        while at < @source.size
          bytes = @source.read(at, [PIECE, @source.size - at].min)
          input.write(bytes)
          at += bytes.bytesize
          yield bytes.bytesize
        end
        nil
      rescue Errno::EPIPE
        nil # the tool has said why
      rescue Error => e
        e
      ensure
        input.close
      end

      def judge(status, said, feeder)
        raise feeder.value if feeder.value.is_a?(Error)
        return if status.success? || (status.exitstatus == WARNING && @kind == 'gzip')

        line = said.to_s.lines.map(&:strip).reject(&:empty?).first.to_s
        words = line.sub(/\A\S*#{@kind}:\s*/, '').sub(/\A.*stdin.*?\s*:\s*/, '')
        raise Damaged.new("#{@name} cannot be unpacked to its end: #{words.empty? ? 'it is broken' : words}", where: @name)
      end
    end
  end
end
