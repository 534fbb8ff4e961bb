# frozen_string_literal: true

module Evrel
  module Volume
    # Names in directories, as they may go into paths.
    module Name
      # Those that every system gives another meaning.
      OTHERS = { '' => '_', '.' => '_', '..' => '__' }.freeze

      # @param name [String] as it stands in a directory, in UTF-8
      # @return [String] one that is a name and nothing else: no separator, and no way to another folder
      def self.safe(name)
        name = name.tr("/\0", '_') if name.match?(%r{[/\0]})
        OTHERS.fetch(name, name)
      end
    end
  end
end
