# frozen_string_literal: true

require 'json'
require 'time'

module Evrel
  module Image
    # manifest.json: what an image is of. docs/manifest.schema.json is its
    # schema; this class holds the document and checks what the core relies on.
    class Manifest
      FORMAT = 'evrel-image'
      VERSION = 1
      LARGEST = 4 * MIB

      attr_reader :document

      # @param path [String]
      # @raise [Damaged, Unreadable, Unsupported]
      def self.load(path)
        raise Unreadable.new("#{path} is larger than a manifest can be", where: path) if ::File.size(path) > LARGEST

        new(JSON.parse(::File.read(path, encoding: 'UTF-8')))
      rescue JSON::ParserError, EncodingError
        raise Damaged.new("#{path} is no JSON", where: path)
      rescue SystemCallError => e
        raise Unreadable.new("#{path} cannot be read: #{e.message[/\A[^@]+/].strip.downcase}", where: path)
      end

      # @param document [Hash] as in the schema
      def initialize(document)
        @document = document
        check
      end

      def id = document['id']
      def taken_at = Time.iso8601(document['taken_at'])
      def size = document.dig('disk', 'size_bytes')
      def logical_sector = document.dig('disk', 'logical_sector')
      def used_bytes = document['used_bytes']
      def stored_clusters = document.dig('disk', 'clusters')
      def computer = document['computer']
      def drive = document['drive']
      def partitions = document.dig('table', 'partitions') || []
      def table? = !document['table'].nil?
      def disk_guid = document.dig('table', 'guid')
      def note = document['note']

      # @param number [Integer] of the partition
      # @return [Hash, nil]
      def partition(number) = partitions.find { |part| part['number'] == number }

      def to_json(*) = JSON.pretty_generate(document)

      private

      def check
        raise bad('is no object') unless document.is_a?(Hash)
        raise bad("has the format #{document['format'].inspect}") unless document['format'] == FORMAT
        unless document['version'] == VERSION
          raise Unsupported.new("the manifest has version #{document['version']}", where: 'manifest.json')
        end

        check_numbers
        check_time
      end

      def check_numbers
        sector = document.dig('disk', 'logical_sector')
        raise bad("has sectors of #{sector.inspect} bytes") unless [512, 4096].include?(sector)
        raise bad("has a disk of #{size.inspect} bytes") unless size.is_a?(Integer) && size.positive?
        raise bad('does not say how much is used') unless used_bytes.is_a?(Integer) && stored_clusters.is_a?(Integer)
        raise bad('has a list of partitions that is none') unless partitions.is_a?(Array)
        raise bad('names no computer or drive') unless computer.is_a?(Hash) && drive.is_a?(Hash)
      rescue TypeError
        raise bad('is not built like one')
      end

      def check_time
        taken_at
      rescue ArgumentError, TypeError
        raise bad("was taken at #{document['taken_at'].inspect}")
      end

      def bad(message) = Damaged.new("the manifest #{message}", where: 'manifest.json')
    end
  end
end
