# frozen_string_literal: true

module Evrel
  module Volume
    # The checksums of an ext volume's superblock, descriptors and block
    # bitmaps: CRC-32C with the feature "metadata_csum", CRC-16 of descriptors
    # alone with "uninit_bg". ("ext4 Data Structures and Algorithms", sections
    # "Checksums" and "Block Group Descriptors".)
    class ExtChecksums
      AT_SUPERBLOCK = 0x3FC # of its 1,024 bytes
      AT_DESCRIPTOR = 0x1E  # bg_checksum, 2 bytes

      # @param superblock [ExtSuperblock]
      def initialize(superblock)
        @uuid = superblock.uuid.to_s.b
        @seed = superblock.incompatible_feature?(ExtSuperblock::CHECKSUM_SEED) ? superblock.checksum_seed.to_i : Crc.c32(@uuid)
        # Asked for every group: fields of a record are slow.
        @all = superblock.read_only_feature?(ExtSuperblock::METADATA_CHECKSUM)
        @lazy = superblock.lazy?
        @large = superblock.incompatible_feature?(ExtSuperblock::BITS_64)
      end

      # @return [Boolean] whether all metadata carries one
      def all? = @all

      # @param bytes [String] the 1,024 bytes of a superblock
      # @return [Boolean] whether nothing contradicts it
      def superblock?(bytes)
        !all? || Crc.c32(bytes.byteslice(0, AT_SUPERBLOCK)) == bytes.unpack1("@#{AT_SUPERBLOCK}V")
      end

      # @param bytes [String] one descriptor, 32 or more bytes
      # @param group [Integer]
      # @return [Boolean]
      def descriptor?(bytes, group)
        return true unless @lazy

        stored = bytes.unpack1("@#{AT_DESCRIPTOR}v")
        (all? ? whole_descriptor(bytes, group) : old_descriptor(bytes, group)) == stored
      end

      # Kept in two halves, at 0x18 and 0x38 of the descriptor; small descriptors have the first alone.
      # @param bitmap [String] the bits of one group
      # @param descriptor [String]
      # @return [Boolean]
      def bitmap?(bitmap, descriptor)
        return true unless all?

        found = Crc.c32(bitmap, @seed)
        low = descriptor.unpack1('@24v')
        descriptor.bytesize >= 58 ? found == low | (descriptor.unpack1('@56v') << 16) : found & 0xFFFF == low
      end

      private

      # Its own two bytes count as zero.
      def whole_descriptor(bytes, group)
        blanked = bytes.dup
        blanked[AT_DESCRIPTOR, 2] = "\0\0".b
        Crc.c32([group].pack('V') + blanked, @seed) & 0xFFFF
      end

      # Its own two bytes are left out.
      def old_descriptor(bytes, group)
        Crc.c16(@uuid + [group].pack('V') + bytes.byteslice(0, AT_DESCRIPTOR) + (@large ? bytes.byteslice((AT_DESCRIPTOR + 2)..) : ''))
      end
    end
  end
end
