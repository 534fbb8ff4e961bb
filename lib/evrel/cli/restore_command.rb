# frozen_string_literal: true

require 'optparse'
require 'tmpdir'

module Evrel
  class CLI
    # `evrel restore`: an image onto a disk, as it is or by a plan.
    class RestoreCommand
      # @param arguments [Array<String>] its options are taken out
      # @raise [OptionParser::ParseError]
      def initialize(arguments)
        @options = { read_back: true, accept_unread: false }
        @scratch = Dir.tmpdir
        parser = OptionParser.new
        parser.on('--[no-]read-back') { |value| @options[:read_back] = value }
        parser.on('--read-twice') { @options[:read_twice] = true }
        parser.on('--skip-identical') { @options[:skip_identical] = true }
        parser.on('--unused WAY') { |way| @options[:unused] = way }
        parser.on('--accept-unread') { @options[:accept_unread] = true }
        parser.on('--plan FILE') { |file| @plan = file }
        parser.on('--scratch FOLDER') { |folder| @scratch = folder }
        @proof = DeviceProof.new(parser)
        parser.parse!(arguments)
      end

      # @param image [Image::Native, Image::Foreign]
      # @param path [String] of the disk
      # @yieldparam progress [Restore::Progress]
      # @return [Restore::Result]
      # @raise [Refused] where the path is a device's and nobody has proved that it is the right one
      def run(image, path, &progress)
        @proof.check(path)
        scratch = Restore::Scratch.new(::File.join(@scratch, "evrel-scratch-#{Process.pid}"))
        keep_digests(image) if image.is_a?(Image::Live)
        sector = @plan ? PlanCommand.sector(@plan) : image.manifest.logical_sector
        Disk.at(path, writable: true, logical_sector: sector) do |disk|
          plan = @plan ? PlanCommand.again(@plan, image, disk) : Layout.as_in_image(image, disk)
          Restore::Engine.new(image:, target: disk, plan:, scratch:, **@options).run(&progress)
        end
      ensure
        scratch&.remove
      end

      private

      # The file is gone as soon as nobody has it open.
      def keep_digests(drive)
        path = ::File.join(@scratch, "evrel-digests-#{Process.pid}")
        drive.keep_digests(Image::FirstRead.new(path, drive.uid))
      ensure
        FileUtils.rm_f(path)
      end
    end
  end
end
