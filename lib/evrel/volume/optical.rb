# frozen_string_literal: true

module Evrel
  module Volume
    # The file systems of discs: UDF (ECMA-167), ISO 9660 (ECMA-119) with the
    # longer names of Joliet, and both on one volume, which counts as UDF.
    module Optical
      KINDS = %w[udf iso9660].freeze
      AT = 32_768 # both keep 32 KiB free, and begin with descriptors of 2,048 bytes or of a sector
      DESCRIPTORS = 64
      TERMINATOR = 255
      # ISO 2022 escapes of UCS-2, levels 1 to 3 (Joliet specification)
      JOLIET = ['%/@', '%/C', '%/E'].freeze
      ANCHOR = 256 # sector of the anchor descriptor, tag 2
      LOGICAL = 6  # tag of the logical volume descriptor
      SEQUENCE = 32 # sectors of the volume descriptor sequence that are looked at

      module_function

      # @param disk [Disk]
      # @return [Opaque, nil]
      # @raise [Damaged, Unreadable]
      def recognise(disk) = udf(disk) || iso9660(disk)

      def udf(disk)
        return unless [2048, 4096, 512].any? { |sector| nsr?(disk, sector) }

        Opaque.new(disk, kind: 'udf', size: disk.size, block_size: 2048, label: udf_label(disk))
      end

      # Descriptors of the recognition sequence: type 0, identifier at 1.
      def nsr?(disk, sector)
        DESCRIPTORS.times do |index|
          name = piece(disk, AT + (index * [sector, 2048].max), 6).byteslice(1, 5)
          return true if name.to_s.match?(/\ANSR0[23]\z/n)
          return false unless name.to_s.match?(/\A(BEA01|BOOT2|CD001|CDW02|TEA01)\z/n)
        end
        false
      end

      # The anchor names length (16) and place (20) of the descriptors; the logical volume has its name at 84.
      def udf_label(disk)
        [512, 2048, 4096].product([ANCHOR, -1, -1 - ANCHOR]).each do |sector, at|
          at += disk.size / sector if at.negative?
          tag, place = piece(disk, at * sector, 512).ljust(512, "\0".b).unpack('v@20V')
          next unless tag == 2

          SEQUENCE.times do |index|
            bytes = piece(disk, (place + index) * sector, 512)
            return characters(bytes.byteslice(84, 128)) if bytes.unpack1('v') == LOGICAL
          end
        end
        nil
      end

      # A string of fixed length: compression 8 or 16 bits first, bytes in use last (OSTA UDF 2.1.3).
      def characters(field)
        length = field.getbyte(-1).clamp(0, field.bytesize - 1)
        text = field.byteslice(1, [length - 1, 0].max)
        encoding = field.getbyte(0) == 16 ? 'UTF-16BE' : 'ISO-8859-1'
        text.force_encoding(encoding).encode('UTF-8', invalid: :replace, undef: :replace)
      end

      # Primary volume descriptor: identifier 40 (32 characters), blocks 80, bytes per block 128.
      def iso9660(disk)
        head = piece(disk, AT, 2048)
        return unless head.start_with?("\x01CD001".b) && head.bytesize == 2048

        label, blocks, block = head.unpack('@40a32@80V@128v')
        unless block.between?(512, 2048) && block.nobits?(block - 1)
          raise Damaged.new("ISO 9660 with blocks of #{block} bytes", where: 'volume descriptor')
        end

        Opaque.new(disk, kind: 'iso9660', size: blocks * block, block_size: block, least_sector: block,
                         label: joined(Volume.text(label).strip, joliet(disk)))
      end

      # A supplementary descriptor of type 2, escapes at 88, name of 16 characters of two bytes at 40.
      def joliet(disk)
        (1...DESCRIPTORS).each do |index|
          bytes = piece(disk, AT + (index * 2048), 2048)
          break if bytes.bytesize < 2048 || bytes.byteslice(1, 5) != 'CD001' || bytes.getbyte(0) == TERMINATOR
          next unless bytes.getbyte(0) == 2 && JOLIET.include?(bytes.byteslice(88, 3))

          return bytes.byteslice(40, 32).force_encoding('UTF-16BE').encode('UTF-8', invalid: :replace, undef: :replace).delete("\0").strip
        end
        nil
      end

      # The longer name has the right letters, the plain one may have more of them, and "_" for those that it cannot have.
      def joined(plain, long)
        return plain if long.to_s.empty?

        same = long.each_char.zip(plain.each_char).all? { |one, two| two == '_' || one.casecmp?(two.to_s) }
        same ? long + plain[long.size..].to_s : long
      end

      # @return [String] shorter where the disk ends
      def piece(disk, offset, length)
        length = [length, disk.size - offset].min
        length.positive? && !offset.negative? ? disk.read(offset, length) : ''.b
      end

      private_class_method :udf, :nsr?, :udf_label, :characters, :iso9660, :joliet, :joined, :piece
    end
  end
end
