# frozen_string_literal: true

require 'optparse'

module Evrel
  class CLI
    # `evrel run`: an image onto several regular files at the same time.
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
        parser.parse!(arguments)
      end

      # @param image [Image::Native, Image::Foreign, Image::Live]
      # @param paths [Array<String>] of the targets
      # @yieldparam path [String]
      # @yieldparam progress [Restore::Progress]
      # @return [Array<Restore::Many::Outcome>]
      def run(image, paths, &)
        wish = { 'way' => 'as_in_image', 'identity' => image.table ? @identity : 'keep' }
        Restore::Many.new(image, paths, wish:, **@options).run(&)
      end

      # @param outcome [Restore::Many::Outcome]
      # @return [Hash] for people and programs
      def self.view(outcome)
        error = outcome.error&.then { |one| { error: one.class.name.split('::').last, message: one.message, where: one.where } }
        result = outcome.result
        { path: outcome.path, written: outcome.written?, verified: result&.verified?, digest: result&.digest, bytes: result&.written,
          error: }.compact
      end
    end
  end
end
