# frozen_string_literal: true

module Evrel
  module Image
    # One file that was split into several with numbers at the end of their
    # names ("disk.raw.001", "disk.raw.002"): all of one size, but for the last.
    module Pieces
      NUMBERED = /\A(?<stem>.*?[^0-9])(?<number>\d{1,6})\z/
      MOST = 10_000
      LOOKED_INTO = 20 # pieces whose beginnings are looked at

      # A set in which nothing but its first piece begins like a disk: two disks
      # of one size are often named like that too.
      # @param path [String] of any piece
      # @param siblings [Array<Shelf::Entry>] files of the same folder
      # @param shelf [Shelf::Folder, Shelf::Web]
      # @return [Array<Shelf::Entry>, nil] the pieces in order; nil where the file is no piece
      def self.of(path, siblings, shelf)
        match = NUMBERED.match(path) or return
        found = numbered(match, siblings)
        return unless found.size.between?(2, MOST) && close_together?(found.keys) && one_size?(found.values)

        found.values if found.values.drop(1).first(LOOKED_INTO).none? { |piece| disk?(shelf, piece) }
      end

      # More missing than there is no set that was split.
      def self.close_together?(numbers) = numbers.last - [numbers.first, 1].min < 2 * numbers.size

      def self.one_size?(pieces) = pieces[0..-2].map(&:size).uniq.one? && pieces.last.size <= pieces.first.size

      # Begins with a table or like a container; a volume may begin in the middle of a disk.
      def self.disk?(shelf, piece)
        source = shelf.open(piece.path)
        return true unless Format.of(source) == 'raw'

        # The backup copy of a GPT is in the last piece: only a primary one counts.
        Table::Gpt::SECTORS.any? { |sector| source.size > sector + 512 && source.read(sector, 8) == Table::Gpt::SIGNATURE } ||
          !Table::Mbr.read(Disk::Window.of_file(source), logical: false).nil?
      rescue Damaged
        true
      rescue Error
        false
      ensure
        source&.close
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
      private_class_method :numbered, :close_together?, :one_size?, :disk?
    end
  end
end
