# frozen_string_literal: true

module Evrel
  class CLI
    # The commands about the start: its chain, mends and trial starts.
    module Starting
      private

      def run_startup(arguments)
        command = StartupCommand.new(Keys.one(@passphrase))
        path, = operands(arguments, 1, command.parser(:startup))
        steps = with_image(path) { |image| command.chain(image.disk) }
        print({ path:, state: Fact.worst(steps), steps: steps.map(&:to_h) })
        steps.any? { |step| step.state == :no } ? FINDING : FINE
      end

      def run_mend(arguments)
        command = StartupCommand.new(Keys.one(@passphrase))
        path, step = operands(arguments, 1..2, command.parser(:mend))
        raise ArgumentError, 'STEP is missing' unless step || command.undo

        print(command.mend(path, step))
        FINE
      end

      def run_try(arguments)
        command = StartupCommand.new(Keys.one(@passphrase))
        path, = operands(arguments, 1, command.parser(:try))
        result = with_image(path) do |image, kept|
          firmware = image.table&.kind == 'mbr' ? :bios : :uefi
          Image::TrialSource.lend(image, kept) { |file, format| command.try(file, format, firmware) }
        end
        print({ path:, **result.to_h.except(:text) })
        result.started? ? FINE : FINDING
      end
    end
  end
end
