# frozen_string_literal: true

require 'json'

module Evrel
  module Image
    # How far a taking has come, beside its unfinished files, so that it goes on
    # after it was cut off: "taking.json" says how many clusters hold, and
    # "sizes" how many bytes each takes (32 bits little-endian, in the order of
    # clusters.b3). Both go when the image is complete.
    class Checkpoint
      FILE = 'taking.json'
      SIZES = 'sizes'

      # @return [Integer] clusters that were taken before
      attr_reader :clusters

      # @param folder [String] of the unfinished image
      # @param plan [String] digest of what is to be taken: of another plan nothing is used
      def initialize(folder, plan)
        @folder = folder
        @plan = plan
        @told = read
        @clusters = @told['clusters'].to_i
      end

      def begun? = @told.any?

      # @return [Time, nil] when the taking began
      def taken_at = @told['taken_at']&.then { |time| Time.iso8601(time) }

      # @return [Array<(Integer, Integer)>] what could not be read so far
      def unread = @told['unread'].to_a

      # Yields the number of each cluster that holds, and the bytes that it takes.
      # @param digests [Digests] of them
      def each_placed(digests)
        return enum_for(:each_placed, digests) unless block_given?

        ::File.open(path(SIZES), 'rb') do |sizes|
          digests.each_batch { |batch| batch.map(&:first).each { |index| yield [index, sizes.read(4).unpack1('V')] } }
        end
      end

      # Opens the list of sizes behind those that hold.
      def open
        @sizes = ::File.open(path(SIZES), ::File::RDWR | ::File::CREAT | ::File::BINARY)
        @sizes.truncate(clusters * 4)
        @sizes.seek(0, IO::SEEK_END)
      end

      # @param bytes [Integer] that the next cluster takes
      def add(bytes) = @sizes.write([bytes].pack('V'))

      # Once everything else is durable: so much holds from now on.
      def note(clusters, unread:, taken_at:)
        @sizes.fsync
        ::File.write("#{path(FILE)}.new", JSON.generate(plan: @plan, clusters:, unread:, taken_at: taken_at.iso8601))
        ::File.open("#{path(FILE)}.new", &:fsync)
        ::File.rename("#{path(FILE)}.new", path(FILE))
      end

      def close = @sizes&.close

      # The image is complete.
      def remove
        close
        [FILE, SIZES, "#{FILE}.new"].each { |name| FileUtils.rm_f(path(name)) }
      end

      private

      def path(name) = ::File.join(@folder, name)

      def read
        told = JSON.parse(::File.read(path(FILE)))
        told['plan'] == @plan && ::File.size(path(SIZES)) >= told['clusters'] * 4 ? told : {}
      rescue Errno::ENOENT, JSON::ParserError, TypeError, NoMethodError
        {}
      end
    end
  end
end
