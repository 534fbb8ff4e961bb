# frozen_string_literal: true

module Evrel
  module Image
    # The text inside of a VMDK that names the files which hold its bytes (block/vmdk.c of
    # QEMU). A hostile one may name any file of this machine.
    module VmdkDescriptor
      LONGEST = 64 * KIB
      EXTENT = /^(?:RW|RDONLY|NOACCESS)\s+\d+\s+\S+\s+"(?<name>[^"]*)"/

      module_function

      # @param source [Disk] the file
      # @param path [String]
      # @raise [Refused] where it names a file outside of its own folder
      # @raise [Unsupported] where it builds on another
      def check(source, path)
        text = descriptor(source)
        parent = text[/^parentFileNameHint="([^"]*)"/, 1]
        raise Unsupported.new("#{path} builds on #{parent[0, 80].inspect}", where: path) if parent

        text.scan(EXTENT).flatten.each do |name|
          next if ::File.basename(name) == name && name != '..'

          raise Refused.new("#{path} names a file outside of its folder: #{name[0, 80].inspect}", where: path)
        end
      end

      # Sparse extents: sector of the text at offset 28, its sectors at 36 (8 bytes each).
      def descriptor(source)
        head = source.read(0, [LONGEST, source.size].min)
        return text(head) if head.start_with?(Format::VMDK_TEXT)

        sector, sectors = head.unpack('@28Q<2')
        return '' if sector.to_i.zero? || (sector * 512) >= source.size

        text(source.read(sector * 512, [sectors * 512, LONGEST, source.size - (sector * 512)].min))
      end

      def text(bytes) = bytes.split("\0", 2).first.to_s.force_encoding('UTF-8').scrub
      private_class_method :descriptor, :text
    end
  end
end
