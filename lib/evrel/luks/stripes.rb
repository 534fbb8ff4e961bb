# frozen_string_literal: true

require 'openssl'
require 'securerandom'

module Evrel
  module Luks
    # Spreads a key over many stripes, of which none may be missing (chapter 2.4
    # of the specification): what of it was overwritten once is lost for good.
    module Stripes
      module_function

      # @param key [String]
      # @param count [Integer] stripes
      # @param hash [String]
      # @return [String] of count times as many bytes
      def split(key, count, hash)
        random = Array.new(count - 1) { SecureRandom.bytes(key.bytesize) }
        random.join + xor(folded(random, key.bytesize, hash), key)
      end

      # @return [String] the key
      def merge(material, count, hash)
        size = material.bytesize / count
        stripes = Array.new(count) { |number| material.byteslice(number * size, size) }
        xor(folded(stripes[0..-2], size, hash), stripes.last)
      end

      def folded(stripes, size, hash)
        digest = OpenSSL::Digest.new(hash)
        stripes.reduce("\0".b * size) { |folded, stripe| diffused(xor(folded, stripe), digest) }
      end

      def diffused(bytes, digest)
        width = digest.digest_length
        0.step(bytes.bytesize - 1, width).with_index.map do |at, number|
          piece = bytes.byteslice(at, width)
          digest.digest([number].pack('N') + piece).byteslice(0, piece.bytesize)
        end.join
      end

      # Of 32 or 64 bytes.
      def xor(one, other) = one.unpack('Q*').zip(other.unpack('Q*')).map { |a, b| a ^ b }.pack('Q*')
      private_class_method :folded, :diffused, :xor
    end
  end
end
