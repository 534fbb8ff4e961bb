# frozen_string_literal: true

module Evrel
  module Startup
    # What is built into GRUB's core: where its own files lie, and commands that
    # it carries out first (include/grub/kernel.h of GRUB: a magic number,
    # offset and size of all; then type, size and contents of each).
    class GrubModules
      MAGIC = 'mimg'
      CONFIG = 2
      PREFIX = 3
      # The same with numbers of 32 and of 64 bits.
      HEADS = { 4 => 'V2', 8 => 'x4Q<2' }.freeze

      # prefix is "(hd0,msdos1)/boot/grub", or without a device; config is text; each nil where there is none
      attr_reader :prefix, :config

      # @param bytes [String] the core, unpacked
      # @return [GrubModules, nil]
      def self.find(bytes)
        at = -1
        # The code compares with the number too: one of them is the head itself.
        while (at = bytes.index(MAGIC, at + 1))
          found = HEADS.keys.map { |width| new(bytes, at, width) }.find(&:prefix)
          return found if found
        end
      end

      def initialize(bytes, start, width)
        offset, size = bytes.byteslice(start + 4, 20).to_s.unpack(HEADS[width])
        return unless offset && size && size <= bytes.bytesize - start

        each(bytes.byteslice(start, size), offset) do |type, contents|
          @prefix = contents.unpack1('Z*') if type == PREFIX
          @config = contents.unpack1('Z*').force_encoding('UTF-8').scrub if type == CONFIG
        end
      end

      # Where its own files lie: "(,msdos1)/boot/grub" is on the disk that was started from.
      # @return [(String, String)] device as in "hd0,msdos1", nil where none is named, and path
      def place
        device, path = prefix.match(/\A\(([^)]*)\)(.*)\z/).to_a.drop(1)
        return [nil, prefix] if device.nil?
        return [nil, path] if device.empty?

        [device.start_with?(',') ? "hd0#{device}" : device, path]
      end

      private

      # Each has a head of 8 bytes, which its size counts.
      def each(bytes, offset)
        while offset + 8 <= bytes.bytesize
          type, size = bytes.byteslice(offset, 8).unpack('V2')
          break if size < 8

          yield type, bytes.byteslice(offset + 8, size - 8).to_s
          offset += size
        end
      end
    end
  end
end
