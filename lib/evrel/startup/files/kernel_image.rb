# frozen_string_literal: true

module Evrel
  module Startup
    # A kernel's file: of which kind and for which processor it is. x86: the
    # boot protocol's header (Documentation/arch/x86/boot.rst of Linux); ARM 64:
    # Documentation/arch/arm64/booting.rst.
    class KernelImage
      HEAD = 40 * KIB
      MAGIC = 0x202       # "HdrS"
      PROTOCOL = 0x206
      VERSION = 0x20E     # where its version is said, less 0x200
      FLAGS = 0x236       # bit 0: it has an entry point for 64 bits
      RELOCATABLE = 0x20C # first protocol whose FLAGS mean something
      ARM64 = 0x38        # "ARM\x64"

      # @param head [String] the first HEAD bytes of the file
      def initialize(head)
        @head = head
      end

      # @return [Boolean] whether a loader on an x86 computer with 64 bits can start it
      def fine? = x86? && (protocol < RELOCATABLE || @head.getbyte(FLAGS).to_i.anybits?(1))

      # @return [String] what it is, in words
      def kind
        return "a kernel for x86#{'-64' if fine?}#{", #{version}" if version}" if x86?
        return 'a kernel for ARM 64' if @head.byteslice(ARM64, 4) == 'ARMd'
        return "a program for #{Pe.read(@head).machine_name}" if Pe.read(@head)
        return 'empty' if @head.empty?

        'no kernel'
      end

      # @return [String, nil] as `uname -r` says it
      def version
        at = x86? && @head.byteslice(VERSION, 2).unpack1('v')
        return if !at || at.zero?

        @head.byteslice(at + 0x200, 128).to_s.unpack1('Z*')[/\A[\w.+~-]+/]
      end

      private

      def x86? = @head.byteslice(MAGIC, 4) == 'HdrS' && @head.byteslice(0x1FE, 2) == "\x55\xAA".b
      def protocol = @head.byteslice(PROTOCOL, 2).unpack1('v')
    end
  end
end
