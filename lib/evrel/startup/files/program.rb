# frozen_string_literal: true

module Evrel
  module Startup
    # Whether a program of a system can run: it is one, for this processor, and
    # what loads it and every library that it asks for are there.
    class Program
      LARGEST = 64 * MIB
      # Where libraries are looked for that no folder is named for (ld.so(8)), with Debian's and others' names of them.
      FOLDERS = %w[/lib/x86_64-linux-gnu /usr/lib/x86_64-linux-gnu /lib/aarch64-linux-gnu /usr/lib/aarch64-linux-gnu
                   /lib64 /usr/lib64 /lib /usr/lib].freeze
      MOST_LIBRARIES = 200
      MOST_SCRIPTS = 4 # that start each other

      # text: why it cannot run; paths: the file that is missing or wrong, at the places where it may belong.
      Problem = Struct.new(:text, :paths)

      # @param files [SystemFiles]
      # @param path [String]
      def initialize(files, path)
        @files = files
        @path = path
      end

      # @return [Problem, nil] nil where nothing is against it
      def problem
        script = MOST_SCRIPTS
        path = @path
        while (bytes = @files.head(path, LARGEST))
          return binary(path, bytes) unless bytes.start_with?('#!')
          return wrong("#{path} is a script that never comes to a program", path) if (script -= 1).zero?

          path = bytes.lines.first[2..].strip.split.first.to_s
        end
        wrong(path == @path ? "#{path} is no file" : "#{path}, which carries it out, is not there", path)
      end

      private

      def wrong(text, *paths) = Problem.new(text, paths)

      def binary(path, bytes)
        elf = Elf.read(bytes)
        return wrong("#{path} is #{bytes.empty? ? 'empty' : 'no program'}", path) unless elf
        return wrong("#{path} is a program for #{elf.machine}", path) unless elf.machine == 'x86-64'

        loads = elf.interpreter
        return wrong("#{loads}, which loads #{path}, is not there", loads) if loads && !@files.exist?(loads)

        libraries(path, elf)
      rescue Damaged => e
        wrong("#{path}: #{e.message}", path)
      end

      # One by one, those of libraries too.
      def libraries(path, elf)
        known = {}
        queue = [[path, elf]]
        while (user, one = queue.shift)
          one.needed.reject { |name| known[name] }.each do |name|
            known[name] = true
            found = library(name, user, one) or
              return wrong("#{name}, which #{user} asks for, is not there", *places(name, user, one))
            queue << [found, Elf.read(@files.head(found, LARGEST))] if known.size < MOST_LIBRARIES
          end
        end
        nil
      end

      def places(name, user, elf)
        folders = elf.folders.map { |folder| folder.gsub(/\$\{?ORIGIN\}?/, ::File.dirname(user)) } + FOLDERS
        folders.map { |folder| "#{folder}/#{name}" }
      end

      # @return [String, nil] its path
      def library(name, user, elf)
        places(name, user, elf).find { |path| @files.head(path, 20)&.then { |head| Elf.read(head.ljust(128, "\0")) } }
      end
    end
  end
end
