# frozen_string_literal: true

module Evrel
  module Image
    # The end of a taking: its files get their checksums, and where it is wished
    # every cluster is read back and held against its digest meanwhile. Both read
    # the same files from the medium: what the one has fetched the other need not
    # fetch again.
    class Closing
      # A checksum of a terabyte takes an hour.
      PATIENCE = { processor: 24 * 3600, seconds: 48 * 3600 }.freeze

      # @param folder [String] of the image, which has no checksums yet
      # @param names [Array<String>] of its files, as far as they are there
      # @param keys [Keys] that open it
      def initialize(folder, names, keys)
        @folder = folder
        @names = names
        @keys = keys
      end

      # @yieldparam done [Integer] clusters that were read back
      # @yieldparam total [Integer]
      # @return [Check::Result]
      def check(&)
        forget
        summing = Thread.new { Apart.call(**PATIENCE) { Sums.written(@folder, @names) } }
        summing.report_on_exception = false
        image = Image.open(@folder, keys: @keys)
        Check.new(image, closing: -> { write(summing.value) }).run(&)
      ensure
        summing.kill.join if summing&.alive? # one that has failed would raise here, in the place of what ended this
        image&.close
      end

      # Checksums alone.
      def sum = write(Sums.written(@folder, @names))

      private

      # They are durable: from now on the medium says what is in them, not this machine's memory.
      def forget
        @names.map { |name| ::File.join(@folder, name) }.select { |path| ::File.exist?(path) }.each do |path|
          ::File.open(path) { |io| io.advise(:dontneed) }
        end
      end

      def write(sums) = ::File.write(::File.join(@folder, Native::SUMS), sums)
    end
  end
end
