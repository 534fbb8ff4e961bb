# frozen_string_literal: true

module Evrel
  module Volume
    # Runs an outside tool so that it asks nothing, speaks English and takes a
    # given time for now.
    class Tool
      # @param time [Time]
      def initialize(time)
        @environment = { 'LC_ALL' => 'C', 'TZ' => 'UTC', 'E2FSPROGS_FAKE_TIME' => time.to_i.to_s, 'E2FSCK_TIME' => time.to_i.to_s,
                         'SOURCE_DATE_EPOCH' => time.to_i.to_s,
                         'RESIZE2FS_FORCE_LAZY_ITABLE_INIT' => '1' }
      end

      # @param fine [Array<Integer>] exit codes that mean success
      # @param environment [Hash]
      # @return [String] what it printed
      # @raise [Damaged] with its last words, where it fails
      def run(*command, fine: [0], environment: {})
        said, code = try(*command, environment:)
        fine.include?(code) ? said : failed(command, said)
      end

      # @return [Array<(String, Integer)>] what it printed, exit code
      # @raise [Unreadable] where the tool is not there
      def try(*command, environment: {}, input: '')
        said, status = Linux::Spawn.capture2e(@environment.merge(environment), *command, stdin_data: input)
        [said.scrub, status.exitstatus || 128]
      rescue Errno::ENOENT
        missing(command)
      end

      private

      def missing(command) = raise(Unreadable.new("#{command.first} is not installed", where: command.first))

      def failed(command, said)
        last = said.lines.map(&:strip).reject(&:empty?).last(2).join(' ')
        raise Damaged.new("#{command.first} could not do it: #{last[0, 300]}",
                          where: command.first, hint: 'leave the part at its size, or check it with its own system first')
      end
    end
  end
end
