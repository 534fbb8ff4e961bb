# frozen_string_literal: true

module Evrel
  module Image
    # One file that was split into several with numbers at the end of their
    # names ("disk.raw.001", "disk.raw.002"): all of one size, but for the last.
    module Pieces
      NUMBERED = /\A(?<stem>.*?[^0-9])(?<number>\d{1,6})\z/
      MOST = 10_000

      # A set in which nothing but its first piece begins like a disk.
      # @param path [String] of any piece
      # @param siblings [Array<Shelf::Entry>] files of the same folder
      # @return [Array<Shelf::Entry>, nil] the pieces in order; nil where the file is no piece
      def self.of(path, siblings)
        match = NUMBERED.match(path) or return
        found = numbered(match, siblings)
        return if found.size < 2 || found.size > MOST
        return unless found.values[0..-2].map(&:size).uniq.size == 1 && found.values.last.size <= found.values.first.size

        found.values
      end

      # @param pieces [Array<Shelf::Entry>]
      # @return [Array<String>] names of those that are not there, first and middle ones
      def self.missing(pieces)
        matches = pieces.map { |piece| NUMBERED.match(piece.path) }
        numbers = matches.map { |match| match[:number].to_i }
        first = [numbers.first, 1].min
        ((first..numbers.last).to_a - numbers).first(20).map do |number|
          ::File.basename(format("%<stem>s%<number>0#{matches.first[:number].length}d", stem: matches.first[:stem], number:))
        end
      end

      # Files with this stem and a number of as many digits, by number.
      def self.numbered(match, siblings)
        width = match[:number].length
        siblings.filter_map do |entry|
          other = NUMBERED.match(entry.path)
          if other && other[:stem] == match[:stem] && other[:number].length == width && entry.size.to_i.positive?
            [other[:number].to_i,
             entry]
          end
        end.sort_by(&:first).to_h
      end
      private_class_method :numbered
    end
  end
end
