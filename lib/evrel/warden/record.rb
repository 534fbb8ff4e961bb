# frozen_string_literal: true

require 'json'
require 'time'

module Evrel
  module Warden
    # What was opened for whom, and what was refused: lines that are only added.
    class Record
      # @param path [String]
      def initialize(path)
        @io = Linux::Appended.open(path)
        @lock = Mutex.new
      end

      # @param who [Hash] "pid" and "uid" of the process that asked
      # @param asked [Hash] as in Warden
      # @param error [Error, nil] why it was not opened
      # @raise [SystemCallError] where the line is not known to last
      def add(who, asked, error = nil)
        drive = asked['key'] && Identity.mask(asked['key'].to_s)
        line = { at: Time.now.utc.iso8601(3), **who, **asked.slice('bench', 'port', 'docket'), drive:, opened: error.nil?,
                 why: error&.message }
        @lock.synchronize do
          @io.write("#{JSON.generate(line.compact)}\n")
          @io.fsync
        end
      end

      def close = @io.close
    end
  end
end
