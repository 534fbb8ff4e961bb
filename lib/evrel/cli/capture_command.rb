# frozen_string_literal: true

require 'optparse'

module Evrel
  class CLI
    # `evrel capture`: what an image is to hold, and how it is packed.
    class CaptureCommand
      # @param arguments [Array<String>] its options are taken out
      # @raise [OptionParser::ParseError]
      def initialize(arguments)
        @about = { 'computer' => {}, 'drive' => {}, 'note' => '' }
        @how = {}
        parser = OptionParser.new
        parser.on('--computer NAME') { |name| @about['computer']['name'] = name }
        parser.on('--note TEXT') { |text| @about['note'] = text }
        parser.on('--tolerate-unread') { @how[:tolerate_unread] = true }
        parser.on('--parts NUMBERS', Array) { |numbers| @how[:parts] = numbers.map { |number| Integer(number, 10) } }
        parser.on('--without-temporary') { @how[:temporary] = false }
        parser.on('--level NAME', Image::CaptureOptions::LEVELS.keys) { |name| @how[:level] = Image::CaptureOptions::LEVELS.fetch(name) }
        parser.parse!(arguments)
      end

      # @param disk [Disk]
      # @param folder [String] of the image
      # @yieldparam progress [Image::Course::Progress]
      # @return [Image::Manifest]
      def run(disk, folder, &) = Image::Capture.new(disk, folder, about: @about, **@how).run(&)
    end
  end
end
