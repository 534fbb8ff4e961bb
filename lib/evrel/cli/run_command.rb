# frozen_string_literal: true

require 'optparse'

module Evrel
  class CLI
    # `evrel run`: an image onto several disks at the same time.
    class RunCommand
      # @param arguments [Array<String>] its options are taken out
      # @raise [OptionParser::ParseError]
      def initialize(arguments)
        @options = {}
        @identity = 'renew'
        parser = OptionParser.new
        parser.on('--[no-]read-back') { |value| @options[:read_back] = value }
        parser.on('--skip-identical') { @options[:skip_identical] = true }
        parser.on('--unused WAY') { |way| @options[:unused] = way }
        parser.on('--accept-unread') { @options[:accept_unread] = true }
        parser.on('--keep-identity') { @identity = 'keep' }
        parser.on('--table FILE') { |path| @table = Own::Names.parse(::File.binread(path)) }
        parser.on('--template PATH') { |path| (@templates ||= []) << path }
        @proof = DeviceProof.new(parser)
        parser.parse!(arguments)
        raise ArgumentError, '--template goes with --table' if @templates && !@table
      end

      # @param image [Image::Native, Image::Foreign, Image::Live]
      # @param paths [Array<String>] of the targets
      # @yieldparam path [String]
      # @yieldparam progress [Restore::Progress]
      # @return [Array<Restore::Many::Outcome>]
      # @raise [Refused] before anything is written, where one of them is a device that nobody has proved to be the right one
      def run(image, paths, &)
        paths.each { |path| @proof.check(path) }
        named = @table && paths.each.with_index(1).to_h { |path, place| [path, values(path, place)] }
        wish = { 'way' => 'as_in_image', 'identity' => image.table ? @identity : 'keep' }
        outcomes = Restore::Many.new(image, paths, wish:, **@options).run(&)
        outcomes.each { |outcome| name(outcome, named[outcome.path]) if outcome.written? } if named
        outcomes
      end

      # @param outcome [Restore::Many::Outcome]
      # @return [Hash] for people and programs
      def self.view(outcome)
        wrong = outcome.error || outcome.name_error
        error = wrong && { error: wrong.class.name.split('::').last, message: wrong.message, where: wrong.where }
        result = outcome.result
        { path: outcome.path, name: outcome.name, written: outcome.written?, verified: result&.verified?, digest: result&.digest,
          bytes: result&.written, error: }.compact
      end

      private

      # Before anything is written: whoever has no line is told then.
      def values(path, place)
        @table.of(path, ::File.basename(path), place) or
          raise Refused.new("the table has no line for #{path}, the #{place}. of the row", where: 'table')
      end

      def name(outcome, values)
        Disk.at(outcome.path, writable: true) do |disk|
          changes = Own.draft(disk, values, templates: @templates.to_a).changes
          Startup::Mend::Execution.write(disk, changes.map { |change| [change.offset, change.after] })
        end
        outcome.name = values['name']
      rescue Error => e
        outcome.name_error = e
      end
    end
  end
end
