# frozen_string_literal: true

require 'optparse'

module Evrel
  class CLI
    # `evrel capture`: what an image is to hold, and how it is packed.
    class CaptureCommand
      # @param arguments [Array<String>] its options are taken out
      # @param passphrase [String, nil] that opens the image
      # @raise [OptionParser::ParseError]
      def initialize(arguments, passphrase = nil)
        @about = { 'computer' => {}, 'drive' => {}, 'note' => '' }
        @how = { passphrase: }.compact
        @keys = passphrase ? Keys.one(passphrase) : Keys.none
        parser = OptionParser.new
        parser.on('--computer NAME') { |name| @about['computer']['name'] = name }
        parser.on('--note TEXT') { |text| @about['note'] = text }
        parser.on('--tolerate-unread') { @how[:tolerate_unread] = true }
        parser.on('--parts NUMBERS', Array) { |numbers| @how[:parts] = numbers.map { |number| Integer(number, 10) } }
        parser.on('--without-temporary') { @how[:temporary] = false }
        parser.on('--level NAME', Image::CaptureOptions::LEVELS.keys) { |name| @how[:level] = Image::CaptureOptions::LEVELS.fetch(name) }
        parser.on('--onto IMAGE') { |image| @how[:onto] = image }
        salvaging(parser)
        parser.parse!(arguments)
      end

      # @param disk [Disk]
      # @param folder [String] of the image
      # @yieldparam progress [Image::Course::Progress, Salvage::Progress]
      # @return [Image::Manifest, Salvage::Run::Result] the latter where a limit ended a salvage
      def run(disk, folder, &)
        return Image::Capture.new(disk, folder, about: @about, **@how).run(&) unless @salvage

        how = @how.except(:tolerate_unread)
        earlier = @fill && Image.open(@fill, keys: @keys)
        Salvage.image(disk, @salvage, folder, salvage: { parts: how[:parts], **@limits }.compact, capture: { about: @about, **how },
                                              earlier:, &)
      ensure
        earlier&.close
      end

      private

      def salvaging(parser)
        @limits = {}
        parser.on('--salvage FOLDER') { |folder| @salvage = folder }
        parser.on('--fill IMAGE') { |image| @fill = image }
        parser.on('--retries NUMBER', Integer) { |number| @limits[:retries] = number }
        parser.on('--minutes NUMBER', Float) { |number| @limits[:seconds] = number * 60 }
        parser.on('--unused') { @limits[:unused] = true }
      end
    end
  end
end
