# frozen_string_literal: true

require 'json'

module Evrel
  module Image
    # manifest.json of an image in our own format.
    class Manifest < Document
      FORMAT = 'evrel-image'
      VERSION = 2
      # Of an image that does not hold all parts: who does not know that must not restore it.
      IN_PARTS = 3
      LARGEST = 4 * MIB

      # @param text [String] the file
      # @raise [Damaged, Unsupported]
      def self.parse(text)
        raise Damaged.new('manifest.json is larger than a manifest can be', where: 'manifest.json') if text.bytesize > LARGEST

        new(JSON.parse(text.dup.force_encoding('UTF-8')))
      rescue JSON::ParserError, EncodingError
        raise Damaged.new('manifest.json is no JSON', where: 'manifest.json')
      end

      private

      def check
        raise bad('is no object') unless document.is_a?(Hash)
        raise bad("has the format #{document['format'].inspect}") unless document['format'] == FORMAT
        unless [UNPROVED, VERSION, IN_PARTS].include?(document['version'])
          raise Unsupported.new("the manifest has version #{document['version']}", where: 'manifest.json')
        end

        super
      end
    end
  end
end
