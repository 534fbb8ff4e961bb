# frozen_string_literal: true

module Evrel
  module Linux
    # Files of lines that are only added to, and survive a cut at any byte.
    module Appended
      # Opens one to add lines. What a cut has left of the last line goes first: the next one would be joined to it. Where
      # the file is new, its name is made to last.
      # @param path [String]
      # @return [File]
      def self.open(path)
        fresh = !::File.exist?(path)
        io = ::File.open(path, ::File::RDWR | ::File::CREAT | ::File::BINARY)
        io.truncate(whole(io))
        io.seek(0, IO::SEEK_END)
        ::File.open(::File.dirname(path), &:fsync) if fresh
        io
      end

      # @return [Integer] bytes up to the end of the last whole line
      def self.whole(io)
        size = io.size
        at = size
        while at.positive?
          from = [at - 4096, 0].max
          found = io.pread(at - from, from).rindex("\n")
          return from + found + 1 if found

          at = from
        end
        0
      end
      private_class_method :whole
    end
  end
end
