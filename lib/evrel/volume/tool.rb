# frozen_string_literal: true

module Evrel
  module Volume
    # Runs an outside tool upon volumes so that it asks nothing, speaks English
    # and takes a given time for now.
    class Tool
      # @param time [Time]
      # @param files [Array<String>] paths that it may write to
      def initialize(time, files)
        @files = files
        @environment = { 'LC_ALL' => 'C', 'TZ' => 'UTC', 'E2FSPROGS_FAKE_TIME' => time.to_i.to_s, 'E2FSCK_TIME' => time.to_i.to_s,
                         'SOURCE_DATE_EPOCH' => time.to_i.to_s,
                         'RESIZE2FS_FORCE_LAZY_ITABLE_INIT' => '1' }
      end

      # @param fine [Array<Integer>] exit codes that mean success
      # @param environment [Hash]
      # @return [String] what it printed
      # @param files [Array<String>] more of them
      # @raise [Damaged] with its last words, where it fails
      def run(*command, fine: [0], environment: {}, files: [])
        said, code = try(*command, environment:, files:)
        fine.include?(code) ? said : failed(command, said)
      end

      # @return [Array<(String, Integer)>] what it printed, exit code
      # @raise [Unreadable] where the tool is not there
      def try(*command, environment: {}, input: '', files: [])
        said = Evrel::Tool.run(*command, environment: @environment.merge(environment), input:, write: @files + files)
        [said.text.scrub, said.code]
      end

      private

      def failed(command, said)
        last = said.lines.map(&:strip).reject(&:empty?).last(2).join(' ')
        raise Damaged.new("#{command.first} could not do it: #{last[0, 300]}",
                          where: command.first, hint: 'leave the part at its size, or check it with its own system first')
      end
    end
  end
end
