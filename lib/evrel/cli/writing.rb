# frozen_string_literal: true

module Evrel
  class CLI
    # The commands that overwrite disks.
    module Writing
      private

      def run_restore(arguments)
        command = RestoreCommand.new(arguments)
        path, target = operands(arguments, 2)
        notes = nil
        result = with_image(path) do |image|
          notes = Image::Structure.kept(image.manifest)
          command.run(image, target) { |progress| show(progress.order, progress.done, progress.total) }
        end
        print({ image: path, target:, notes:, verified: result.verified?, read_back: result.read_back, written: result.written,
                spared: result.spared, discarded: result.discarded, compared: result.compared, rewritten: result.rewritten,
                not_grown: result.not_grown, late: result.late,
                digest: result.digest, mismatches: result.mismatches, orders: result.orders.map(&:to_h) })
        result.mismatches.empty? ? FINE : FINDING
      end

      # One image onto many, from one reading.
      def run_run(arguments)
        command = RunCommand.new(arguments)
        path, *targets = operands(arguments, 2..)
        raise ArgumentError, 'a target is named twice' if targets.uniq.size < targets.size

        outcomes = with_image(path) do |image|
          command.run(image, targets) { |target, progress| show("#{target} #{progress.order}", progress.done, progress.total) }
        end
        print({ image: path, targets: outcomes.map { |outcome| RunCommand.view(outcome) } })
        outcomes.all? { |outcome| outcome.written? && outcome.name_error.nil? } ? FINE : FINDING
      end
    end
  end
end
