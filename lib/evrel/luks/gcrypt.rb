# frozen_string_literal: true

require 'ffi'

module Evrel
  module Luks
    # libgcrypt: its XTS counts the sectors on by itself, after a starting value
    # is set each call takes the next one (gcry_cipher_setiv and what follows it
    # in its manual); and it derives a key while other threads go on.
    module Gcrypt
      extend FFI::Library

      ffi_lib 'libgcrypt.so.20'
      attach_function :gcry_check_version, [:string], :string
      attach_function :gcry_cipher_open, %i[pointer int int uint], :uint
      attach_function :gcry_cipher_close, [:pointer], :void
      attach_function :gcry_cipher_setkey, %i[pointer buffer_in size_t], :uint
      attach_function :gcry_cipher_setiv, %i[pointer buffer_in size_t], :uint
      # Address of a cipher, address and bytes of what comes out, address and bytes of what goes in: without these, in place.
      attach_function :gcry_cipher_encrypt, %i[size_t size_t size_t size_t size_t], :uint
      attach_function :gcry_cipher_decrypt, %i[size_t size_t size_t size_t size_t], :uint
      attach_function :gcry_kdf_derive, %i[buffer_in size_t int int buffer_in size_t ulong size_t buffer_out], :uint, blocking: true

      # It wants to be asked for its version before all else.
      gcry_check_version(nil)

      # Numbers of gcrypt.h.
      XTS = 13
      AES = { 32 => 7, 64 => 9 }.freeze # by the bytes of both halves of a key: GCRY_CIPHER_AES128, GCRY_CIPHER_AES256
      PBKDF2 = 34
      HASHES = { 'sha1' => 2, 'sha256' => 8, 'sha512' => 10 }.freeze

      module_function

      # @param key [String] 32 or 64 bytes
      # @return [FFI::AutoPointer] AES in XTS mode; serves one thread
      # @raise [Unsupported]
      def cipher(key)
        place = FFI::MemoryPointer.new(:pointer)
        done!(gcry_cipher_open(place, AES.fetch(key.bytesize), XTS, 0))
        FFI::AutoPointer.new(place.read_pointer, method(:gcry_cipher_close)).tap do |cipher|
          done!(gcry_cipher_setkey(cipher, key, key.bytesize))
        end
      end

      # RFC 8018, chapter 5.2.
      # @param length [Integer] bytes that are wanted
      # @param hash [String] of HASHES
      # @return [String]
      # @raise [Unsupported]
      def pbkdf2(secret, salt, iterations, length, hash)
        out = FFI::MemoryPointer.new(length)
        done!(gcry_kdf_derive(secret, secret.bytesize, PBKDF2, HASHES.fetch(hash), salt, salt.bytesize, iterations, length, out))
        out.read_bytes(length)
      end

      # @param code [Integer] what a function gave back
      # @raise [Unsupported] where it failed
      def done!(code)
        raise Unsupported.new("libgcrypt does not do it (error #{code & 0xFFFF})", where: 'libgcrypt') unless code.zero?
      end
    end
  end
end
