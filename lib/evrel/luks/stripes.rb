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

      def folded(stripes, size, hash) = stripes.reduce("\0".b * size) { |folded, stripe| diffused(xor(folded, stripe), hash) }

      def diffused(bytes, hash)
        width = OpenSSL::Digest.new(hash).digest_length
        0.step(bytes.bytesize - 1, width).with_index.map do |at, number|
          piece = bytes.byteslice(at, width)
          OpenSSL::Digest.digest(hash, [number].pack('N') + piece).byteslice(0, piece.bytesize)
        end.join
      end

      def xor(one, other) = one.unpack('C*').zip(other.unpack('C*')).map { |a, b| a ^ b }.pack('C*')
      private_class_method :folded, :diffused, :xor
    end
  end
end
