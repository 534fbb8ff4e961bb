# frozen_string_literal: true

module Evrel
  module Image
    # The text inside of a VMDK that names the files which hold its bytes (block/vmdk.c of
    # QEMU). A hostile one may name any file of this machine, in ways that whoever
    # opens it understands and whoever looks for them does not: what is not known
    # line by line is refused.
    module VmdkDescriptor
      LONGEST = 64 * KIB
      EXTENT = /\A(?:RW|RDONLY|NOACCESS) \d+ (?:FLAT|SPARSE|ZERO|VMFS|VMFSSPARSE|SESPARSE)(?: "(?<name>[^"]*)"(?: \d+)?)?\z/
      # A comment, or a setting.
      HARMLESS = /\A(?:#.*|[A-Za-z][\w.]*\s*=.*|)\z/
      PARENT = /\Aparent(?:FileNameHint\s*=|CID\s*=\s*"?(?!f{8}))/i

      module_function

      # @param source [Disk] the file
      # @param path [String]
      # @raise [Refused] where it names a file outside of its own folder, or says what is not understood
      # @raise [Unsupported] where it builds on another
      def check(source, path)
        text = descriptor(source) or
          raise Refused.new("#{path} says more of its files than is read here", where: path)
        text.split(/\r?\n/).each { |line| line!(line, path) }
      end

      def line!(line, path)
        raise Unsupported.new("#{path} builds on another: #{line[0, 80].inspect}", where: path) if line.match?(PARENT)
        return if line.match?(HARMLESS)

        extent = EXTENT.match(line) or
          raise Refused.new("#{path} says something of its files that is not understood: #{line[0, 80].inspect}", where: path)
        return if extent[:name].nil? || plain?(extent[:name])

        raise Refused.new("#{path} names a file outside of its folder: #{extent[:name][0, 80].inspect}", where: path)
      end

      # A colon would make an address of it.
      def plain?(name) = ::File.basename(name) == name && !['', '.', '..'].include?(name) && !name.match?(/[:\\\0]/)

      # Sparse extents: sector of the text at offset 28, its sectors at 36 (8 bytes each).
      # @return [String, nil] nil where there is more of it
      def descriptor(source)
        head = source.read(0, [LONGEST, source.size].min)
        return (text(head) if source.size <= LONGEST || head.include?("\0")) if head.start_with?(Format::VMDK_TEXT)

        sector, sectors = head.unpack('@28Q<2')
        return '' if sector.to_i.zero? || (sector * 512) >= source.size

        bytes = source.read(sector * 512, [sectors * 512, LONGEST, source.size - (sector * 512)].min)
        text(bytes) if sectors * 512 <= LONGEST || bytes.include?("\0")
      end

      def text(bytes) = bytes.split("\0", 2).first.to_s.dup.force_encoding('UTF-8').scrub
      private_class_method :descriptor, :text, :line!, :plain?
    end
  end
end
