# frozen_string_literal: true

require 'fileutils'
require 'json'
require 'open3'
require 'tmpdir'

module Evrel
  module Startup
    # A disk that tools may change without its being touched: what they write
    # goes into an overlay, and is read from there afterwards. A partition
    # appears as a plain file, so that every tool can work on it.
    class Overlay
      DAEMON = 'qemu-storage-daemon'
      PATIENCE = 10 # seconds until the file appears, and until the daemon has ended
      CLUSTER = 4096
      # More than that is not made ready in memory.
      LARGEST = 256 * MIB

      # @param path [String] of the disk: a raw file, or a block device
      def initialize(path)
        @path = ::File.expand_path(path)
      end

      # @param part [Table::Partition]
      # @yieldparam file [String] path of a file of the partition's bytes; what is written there stays in the overlay
      # @return [Array<(Integer, String)>] byte offset on the disk and bytes of each place that was written to
      # @raise [Unsupported] where this machine cannot do it
      # @raise [DoesNotFit] where too much was written
      def edit(part)
        Dir.mktmpdir('evrel-overlay') do |folder|
          @folder = folder
          tool('qemu-img', 'create', '-q', '-f', 'qcow2', '-o', "cluster_size=#{CLUSTER}", '-b', @path, '-F', 'raw', overlay)
          shown(part) { yield window }
          written
        end
      end

      private

      def overlay = ::File.join(@folder, 'overlay.qcow2')
      def window = ::File.join(@folder, 'part')

      def shown(part)
        FileUtils.touch(window)
        daemon = spawn('setpriv', '--pdeathsig', 'KILL', DAEMON,
                       '--blockdev', "driver=qcow2,node-name=all,file.driver=file,file.filename=#{overlay}",
                       '--blockdev', "driver=raw,node-name=part,file=all,offset=#{part.start},size=#{part.size}",
                       '--export', "type=fuse,id=part,node-name=part,mountpoint=#{window},writable=on",
                       in: :close, %i[out err] => ::File.join(@folder, 'log'))
        wait_for(daemon, part.size)
        yield
      ensure
        finish(daemon) if daemon
      end

      def wait_for(daemon, size)
        deadline = now + PATIENCE
        until ::File.size(window) == size
          cannot if now > deadline || Process.wait(daemon, Process::WNOHANG)
          sleep 0.02
        end
      end

      def cannot
        said = ::File.read(::File.join(@folder, 'log')).lines.first.to_s.strip
        raise Unsupported.new("this machine cannot show a partition as a file: #{said}", where: DAEMON, hint: 'it needs FUSE')
      end

      # What it holds back is written when it is asked to end.
      def finish(daemon)
        Process.kill(:TERM, daemon)
        Process.wait(daemon)
      rescue Errno::ECHILD, Errno::ESRCH
        nil
      end

      # Only what lies in the overlay itself, by where it lies there.
      def written
        runs = JSON.parse(tool('qemu-img', 'map', '--output=json', overlay)).select do |run|
          run['depth'].zero? && (run['data'] || run['zero'])
        end
        total = runs.sum { |run| run['length'] }
        raise DoesNotFit.new("the change touches #{Units.bytes(total)}, which is too much", where: @path) if total > LARGEST

        ::File.open(overlay, 'rb') do |file|
          runs.map { |run| [run['start'], run['data'] ? file.pread(run['length'], run['offset']) : "\0".b * run['length']] }
        end
      end

      def tool(*command)
        said, status = Open3.capture2e(*command)
        raise Unreadable.new("#{command.first} refuses: #{said.strip}", where: @path) unless status.success?

        said
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    end
  end
end
