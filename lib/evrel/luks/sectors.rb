# frozen_string_literal: true

require 'fiddle'

module Evrel
  module Luks
    # Sectors under a key: AES in XTS mode, with the number of the sector as its
    # 64-bit little-endian starting value ("plain64"). A call for each is what it
    # costs: a block of code or a starting value for each would cost more than AES.
    class Sectors
      # @param key [String] 32 or 64 bytes
      def initialize(key)
        @key = key
        @idle = []
      end

      # @param bytes [String] whole sectors
      # @param first [Integer] number of the first
      # @return [String]
      def decrypt(bytes, first) = decrypt!(bytes.dup, first)

      # In place.
      # @return [String] the same
      def decrypt!(bytes, first) = each(bytes, first, decrypting: true)

      def encrypt(bytes, first) = each(bytes.dup, first, decrypting: false)

      # It shows no key.
      def inspect = "#<#{self.class.name}>"

      private

      # A block for each sector would cost a fourth of it all.
      def each(bytes, first, decrypting:)
        bytes.setbyte(0, bytes.getbyte(0)) unless bytes.empty? # from now on it shares its memory with no other string
        cipher = @idle.pop || Gcrypt.cipher(@key) # one serves one thread
        Gcrypt.done!(Gcrypt.gcry_cipher_setiv(cipher, [first, 0].pack('Q<*'), 16))
        Gcrypt.done!(all(cipher.address, Fiddle::Pointer[bytes].to_i, bytes.bytesize, decrypting))
        @idle.push(cipher)
        bytes
      end

      # @return [Integer] 0, or what failed
      def all(cipher, from, size, decrypting)
        failed = 0
        at = from
        while at < from + size
          failed |= if decrypting then Gcrypt.gcry_cipher_decrypt(cipher, at, SECTOR, 0, 0)
                    else Gcrypt.gcry_cipher_encrypt(cipher, at, SECTOR, 0, 0)
                    end
          at += SECTOR
        end
        failed
      end
    end
  end
end
