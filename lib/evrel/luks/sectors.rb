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
      def decrypt!(bytes, first)
        each(bytes, first) { |cipher, address| Gcrypt.gcry_cipher_decrypt(cipher, address, SECTOR, 0, 0) }
      end

      def encrypt(bytes, first)
        each(bytes.dup, first) { |cipher, address| Gcrypt.gcry_cipher_encrypt(cipher, address, SECTOR, 0, 0) }
      end

      # It shows no key.
      def inspect = "#<#{self.class.name}>"

      private

      def each(bytes, first)
        bytes.setbyte(0, bytes.getbyte(0)) unless bytes.empty? # from now on it shares its memory with no other string
        cipher = @idle.pop || Gcrypt.cipher(@key) # one serves one thread
        Gcrypt.done!(Gcrypt.gcry_cipher_setiv(cipher, [first, 0].pack('Q<*'), 16))
        from = at = Fiddle::Pointer[bytes].to_i
        failed = 0
        while at < from + bytes.bytesize
          failed |= yield cipher, at
          at += SECTOR
        end
        Gcrypt.done!(failed)
        @idle.push(cipher)
        bytes
      end
    end
  end
end
