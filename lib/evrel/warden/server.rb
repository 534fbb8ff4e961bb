# frozen_string_literal: true

require 'fileutils'
require 'json'
require 'socket'

module Evrel
  module Warden
    # Listens, and answers whoever may ask.
    class Server
      PATIENCE = 5 # seconds until a line has to be there

      # @param door [Door]
      # @param record [Record]
      # @param path [String] of the socket; one that is left over is removed
      # @param user [Integer] whose processes may ask, beside the warden's own user
      def initialize(door, record, path, user: Process.euid)
        @door = door
        @record = record
        @users = [user, Process.euid]
        FileUtils.rm_f(path)
        @socket = UNIXServer.new(path)
        ::File.chmod(0o600, path)
        ::File.chown(user, nil, path) if Process.euid.zero?
      end

      # Until it is closed.
      def run
        loop do
          line = @socket.accept
          Thread.new { serve(line) }
        end
      rescue IOError
        nil
      end

      def close = @socket.close

      private

      def serve(line)
        who = peer(line)
        return unless @users.include?(who[:uid])

        answer(line, who, asked(line))
      rescue SystemCallError, IOError
        nil # whoever asked is gone
      ensure
        line.close
      end

      # Nothing is handed over that the record does not hold.
      def answer(line, who, asked)
        io = @door.open(asked)
        @record.add(who, asked)
        line.sendmsg("{}\n", 0, nil, Socket::AncillaryData.unix_rights(io))
      rescue Error => e
        @record.add(who, asked, e)
        line.write("#{JSON.generate(e.to_h)}\n")
      ensure
        io&.close
      end

      # SO_PEERCRED (unix(7)): struct ucred of pid, uid and gid, 32 bits each.
      def peer(line)
        pid, uid, = line.getsockopt(:SOCKET, :PEERCRED).unpack('i3')
        { pid:, uid: }
      end

      # @return [Hash] nothing where it is no request
      def asked(line)
        text = line.gets("\n", LONGEST) if line.wait_readable(PATIENCE)
        told = JSON.parse(text.to_s)
        told.is_a?(Hash) ? told.select { |_, value| value.is_a?(String) || value.is_a?(Integer) } : {}
      rescue JSON::ParserError
        {}
      end
    end
  end
end
