# frozen_string_literal: true

require 'json'
require 'optparse'

module Evrel
  class CLI
    # `evrel plan`: the layout of an image on a disk, without a byte written; and
    # reading such a plan back for `evrel restore --plan`.
    class PlanCommand
      WAYS = { 'as-is' => 'as_in_image', 'spread' => 'spread', 'shrink' => 'shrink' }.freeze

      attr_reader :script

      # @param arguments [Array<String>] its options are taken out
      # @raise [OptionParser::ParseError]
      def initialize(arguments)
        @wish = nil
        @sector = 512
        parser = OptionParser.new
        parser.on('--grow NUMBER', Integer) { |number| @wish = { 'way' => 'grow', 'part' => number } }
        WAYS.each { |option, way| parser.on("--#{option}") { @wish = { 'way' => way } } }
        parser.on('--wish FILE') { |file| @wish = PlanCommand.json(file) }
        parser.on('--sector BYTES', Integer) { |bytes| @sector = bytes }
        parser.on('--firmware KIND', %w[uefi bios]) { |kind| @firmware = kind }
        parser.on('--sfdisk') { @script = true }
        parser.parse!(arguments)
      end

      # @param image [Image::Native, Image::Foreign]
      # @param path [String] of the disk
      # @return [Layout::Plan] valid or not
      def plan(image, path)
        source = Layout::Source.of(image)
        Disk.at(path, logical_sector: @sector) do |disk|
          target = Layout::Target.of(disk, firmware: @firmware)
          Layout::Planner.new(source, target, @wish || Layout::Proposal.for(source, target).first).plan
        end
      end

      # @return [Hash] a plan for printing
      def self.view(plan) = { valid: plan.valid?, digest: plan.digest, **plan.to_h }

      # The plan that was printed before, made anew: it must come out the same.
      # @param file [String]
      # @param image [Image::Native, Image::Foreign]
      # @param disk [Disk]
      # @return [Layout::Plan]
      # @raise [Refused] where the file is no plan, or one of another image or disk
      def self.again(file, image, disk)
        kept = json(file)
        raise Refused.new("#{file} is no plan", where: file) unless kept['wish'].is_a?(Hash) && kept['digest']

        plan = Layout::Planner.new(Layout::Source.of(image), Layout::Target.of(disk), kept['wish']).plan.valid!
        return plan if plan.digest == kept['digest']

        raise Refused.new("#{file} is the plan of another image or another disk", where: file, hint: 'plan it again')
      end

      # @return [Integer] bytes of the sectors that a plan is made for
      def self.sector(file) = json(file)['sector'].to_i.then { |bytes| [512, 4096].include?(bytes) ? bytes : 512 }

      # @return [Hash]
      # @raise [Refused, Unreadable]
      def self.json(file)
        found = JSON.parse(::File.read(file))
        found.is_a?(Hash) ? found : raise(Refused.new("#{file} holds no object", where: file))
      rescue JSON::ParserError => e
        raise Refused.new("#{file} is no JSON: #{e.message[0, 100]}", where: file)
      rescue SystemCallError
        raise Unreadable.new("#{file} cannot be read", where: file)
      end
    end
  end
end
