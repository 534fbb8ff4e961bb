# frozen_string_literal: true

module Evrel
  module Startup
    # What is inside of a unified kernel image (UAPI.5): sections .linux,
    # .initrd, .cmdline and .osrel of an EFI program.
    class Unified
      LONGEST = 64 * KIB # bytes of a command line

      # @param places [Places]
      # @param choice [Choice] with its Pe in unified
      def initialize(places, choice)
        @places = places
        @part, @path = choice.kernel
        @pe = choice.unified
      end

      # @return [String] the kernel's command line
      def options = section('.cmdline', LONGEST).unpack1('Z*').force_encoding('UTF-8').scrub.strip

      # @return [KernelImage]
      def kernel = KernelImage.new(section('.linux', KernelImage::HEAD))

      # @return [Boolean]
      def ramdisk? = !@pe&.section('.initrd').nil?

      private

      # @return [String] the first bytes of a section
      def section(name, limit)
        section = @pe&.section(name) or return ''.b
        bytes(section.offset, [section.size, limit].min)
      end

      def bytes(offset, length)
        at = 0
        found = ''.b
        @places.volume(@part).read_file(@path) do |piece|
          from = [offset - at, 0].max
          found << piece.byteslice(from, length - found.bytesize) if from < piece.bytesize
          at += piece.bytesize
          break if found.bytesize >= length
        end
        found
      end
    end
  end
end
