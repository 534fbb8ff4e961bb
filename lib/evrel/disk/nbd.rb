# frozen_string_literal: true

require 'fileutils'
require 'json'
require 'socket'
require 'tmpdir'

module Evrel
  module Disk
    # A file in a format that only qemu-nbd(8) knows, read through it over a
    # socket: the NBD protocol (doc/proto.md of the NBD project), fixed
    # newstyle handshake and simple replies.
    class Nbd
      include Disk

      PATIENCE = 10 # seconds for the server to begin
      MAGIC = 'NBDMAGIC'
      OPTION = 'IHAVEOPT'
      GO = 7          # NBD_OPT_GO
      INFO = 3        # NBD_REP_INFO
      ACK = 1         # NBD_REP_ACK
      EXPORT = 0      # NBD_INFO_EXPORT
      OPTION_REPLY = 0x3E889045565A9
      REQUEST = 0x25609513
      REPLY = 0x67446698
      READ = 0
      LARGEST = 8 * MIB # of one request

      attr_reader :size

      # @param path [String] a local file
      # @param format [String] as qemu-nbd names it: vpc, vhdx, vmdk, vdi, qcow2
      # @yieldparam folder [String] a block makes what is read instead of the file, in that folder, and gives it as
      #   qemu's tools take it with --image-opts
      # @raise [Unreadable, Damaged] where qemu-nbd is missing or does not take the file
      def initialize(path, format)
        @path = path
        @folder = Dir.mktmpdir('evrel-nbd')
        @what = block_given? ? ['--image-opts', yield(@folder)] : ['-f', format, '--', path]
        @room = { read: [of_files?(format) ? ::File.dirname(::File.expand_path(path)) : path], write: [@folder] }
        @lock = Mutex.new
        start
        shake_hands
        @size = @export_size / logical_sector * logical_sector
      rescue StandardError
        close
        raise
      end

      def logical_sector = 512
      def physical_sector = 4096

      def read_bytes(offset, length)
        out = ''.b
        while length.positive?
          take = [length, LARGEST].min
          out << request(offset, take)
          offset += take
          length -= take
        end
        out
      end

      # As `qemu-img map` tells it.
      def extents
        return enum_for(:extents) unless block_given?

        map.each do |run|
          next if run['zero'] || !run['data']

          yield run['start'], [run['length'], size - run['start']].min if run['start'] < size
        end
      end

      def close
        @socket&.close
        Process.kill(:TERM, @pid) if @pid
        Process.wait(@pid) if @pid
      rescue Errno::ESRCH, Errno::ECHILD
        nil
      ensure
        @pid = @socket = nil
        FileUtils.rm_rf(@folder) if @folder
      end

      private

      def start
        @pid = Tool.start('qemu-nbd', '--read-only', '--persistent', "--socket=#{socket_path}", *@what, **@room,
                          redirections: { in: :close, out: log, err: %i[child out] })
        deadline = now + PATIENCE
        until (@socket = connected)
          refused! if gone?
          raise Unreadable.new('qemu-nbd does not begin', where: @path) if now > deadline

          sleep 0.01
        end
      end

      # Its descriptor may name others beside it.
      def of_files?(format) = format == 'vmdk'

      def connected
        UNIXSocket.new(socket_path) if ::File.socket?(socket_path)
      rescue SystemCallError
        nil # it listens before it has opened the file, and ends where it cannot
      end

      def gone? = Process.wait(@pid, Process::WNOHANG).tap { |ended| @pid = nil if ended }

      # What the server had against the file.
      def refused!
        said = ::File.read(log, 1000).to_s.lines.first.to_s.strip.sub(/\Aqemu-nbd: /, '').gsub(@path, 'it')
        raise Damaged.new("#{::File.basename(@path)}: #{said.empty? ? 'qemu-nbd does not take it' : said}", where: @path)
      end

      def log = ::File.join(@folder, 'log')
      def socket_path = ::File.join(@folder, 'socket')

      # Server: magic, option magic, flags. Client: flags, then one option: the default export.
      def shake_hands
        hello = take(18)
        raise Unreadable.new('qemu-nbd speaks another protocol', where: @path) unless hello.start_with?(MAGIC + OPTION)

        @socket.write([1].pack('N') + OPTION + [GO, 6, 0, 0].pack('NNNn'))
        loop do
          _, _, kind, length = take(20).unpack('Q>N3')
          body = take(length)
          raise Unreadable.new("qemu-nbd refuses the file: #{body}", where: @path) if kind[31] == 1
          break if kind == ACK

          what, bytes = body.unpack('nQ>')
          @export_size = bytes if kind == INFO && what == EXPORT
        end
      end

      def request(offset, length)
        @lock.synchronize do
          @socket.write([REQUEST, 0, READ, 1, offset, length].pack('NnnQ>Q>N'))
          magic, error, = take(16).unpack('NNQ>')
          raise Unreadable.new('qemu-nbd gives no reply', where: "byte #{offset}") unless magic == REPLY
          raise Unreadable.new("the file cannot be read there (error #{error})", where: "byte #{offset}") unless error.zero?

          take(length)
        end
      rescue SystemCallError, IOError
        raise Unreadable.new('qemu-nbd has gone', where: @path)
      end

      def take(length)
        bytes = @socket.read(length)
        return bytes.to_s if bytes.to_s.bytesize == length

        raise Errno::ECONNRESET
      rescue SystemCallError
        sleep 0.05
        refused! if gone?
        raise Unreadable.new('qemu-nbd has gone', where: @path)
      end

      def map
        said = Tool.run('qemu-img', 'map', '--output=json', *@what, errors: true, **@room)
        raise Damaged.new("#{::File.basename(@path)}: #{said.errors.scrub.lines.first.to_s.strip}", where: @path) unless said.success?

        JSON.parse(said.text)
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    end
  end
end
