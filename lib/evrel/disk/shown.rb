# frozen_string_literal: true

require 'fileutils'

module Evrel
  module Disk
    # Bytes shown as a plain file of their own (FUSE, through
    # qemu-storage-daemon), for tools that know nothing but files.
    module Shown
      DAEMON = 'qemu-storage-daemon'
      PATIENCE = 10 # seconds until the file appears

      module_function

      # @param folder [String] of its own, where the file appears
      # @param nodes [Array<String>] arguments that make the node, in the tool's words
      # @param node [String] name of the node that is shown
      # @param size [Integer] bytes; the file keeps that length
      # @param writable [Boolean]
      # @yieldparam path [String]
      # @raise [Unsupported] where this machine cannot do it
      def file(folder, nodes, node, size, writable: false)
        path = ::File.join(folder, 'part')
        log = ::File.join(folder, 'log')
        FileUtils.touch(path)
        export = "type=fuse,id=part,node-name=#{node},mountpoint=#{path},writable=#{on(writable)}"
        daemon = Tool.beside(DAEMON, *nodes, '--export', export, redirections: { in: :close, %i[out err] => log })
        wait_for(daemon, path, size, log)
        yield path
      ensure
        finish(daemon) if daemon
      end

      # Takes away a file that was shown by a daemon which is gone.
      # @param path [String]
      def forget(path) = Tool.system('fusermount3', '-u', '-z', path)

      def on(switch) = switch ? 'on' : 'off'

      def wait_for(daemon, path, size, log)
        deadline = now + PATIENCE
        until ::File.size(path) == size
          cannot(log) if now > deadline || Process.wait(daemon, Process::WNOHANG)
          sleep 0.02
        end
      end

      def cannot(log)
        said = ::File.read(log).lines.first.to_s.strip
        raise Unsupported.new("this machine cannot show a partition as a file: #{said}", where: DAEMON, hint: 'it needs FUSE')
      end

      # What it holds back is written when it is asked to end. It is asked until it does: a signal that comes while it
      # is about to wait for the next request is noticed only after that.
      def finish(daemon)
        loop do
          Process.kill(:TERM, daemon)
          break if Process.wait(daemon, Process::WNOHANG)

          sleep 0.05
        end
      rescue Errno::ECHILD, Errno::ESRCH
        nil
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
      private_class_method :wait_for, :cannot, :finish, :now
    end
  end
end
