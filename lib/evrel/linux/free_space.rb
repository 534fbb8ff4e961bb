# frozen_string_literal: true

module Evrel
  module Linux
    # Room on a file system, as df(1) tells it.
    module FreeSpace
      # @param folder [String]
      # @return [Array<(Integer, Integer)>, nil] bytes that are free for this user, and bytes in all; nil where it does not say
      def self.of(folder)
        said = Tool.system('df', '-B1', '--output=avail,size', '--', folder)
        numbers = said.text.lines.last.to_s.split.map(&:to_i)
        numbers if numbers.size == 2 && numbers.last.positive?
      end
    end
  end
end
