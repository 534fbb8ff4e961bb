# frozen_string_literal: true

module Evrel
  module Shelf
    # A folder of this machine, a mounted share or drive among them.
    class Folder
      attr_reader :root

      # @param root [String]
      # @raise [Unreadable]
      def initialize(root)
        @root = ::File.realpath(root)
      rescue SystemCallError => e
        raise Unreadable.new("#{root} cannot be opened: #{reason(e)}", where: root)
      end

      # @return [Array<(Folder, String)>] the folder that holds +path+, and its name there
      def self.around(path)
        real = ::File.realpath(path)
        [new(::File.dirname(real)), ::File.basename(real)]
      rescue Errno::ENOENT
        raise Unreadable.new("#{path} is not there", where: path)
      end

      def each_file(folder = '', depth = 0, &block)
        return enum_for(:each_file, folder, depth) unless block

        names(folder, &block).each do |name|
          path = folder.empty? ? name : "#{folder}/#{name}"
          stat = ::File.lstat(absolute(path))
          if stat.directory?
            each_file(path, depth + 1, &block) if depth < DEEPEST
          elsif stat.file?
            yield of(path, stat)
          end
        rescue SystemCallError => e
          yield Entry.new(path:, problem: reason(e))
        end
      end

      def entry(path)
        stat = ::File.stat(resolved(path))
        of(Shelf.inside(path), stat) if stat.file?
      rescue Errno::ENOENT, Errno::ENOTDIR
        nil
      rescue SystemCallError => e
        raise Unreadable.new("#{path} cannot be read: #{reason(e)}", where: path)
      end

      def open(path) = Disk::File.open(local(path), logical_sector: 1)

      # @raise [Unreadable]
      def read(path, limit)
        ::File.binread(local(path), limit).to_s
      rescue SystemCallError => e
        raise Unreadable.new("#{path} cannot be read: #{reason(e)}", where: path)
      end

      # @raise [Unreadable] where it is not there
      # @raise [Refused] where a link leads out
      def local(path)
        resolved(path)
      rescue SystemCallError
        raise Unreadable.new("#{path} is not there", where: path)
      end

      def folder?(path) = ::File.directory?(absolute(Shelf.inside(path)))

      def siblings(path)
        folder = ::File.dirname(path)
        folder = '' if folder == '.'
        names(folder).filter_map { |name| entry(folder.empty? ? name : "#{folder}/#{name}") }
      rescue Refused
        []
      end

      # Removes files, and the folders that are empty then. A link is removed, and not what it leads to.
      # @param paths [Array<String>]
      # @raise [Unreadable] where one cannot be removed
      def remove(paths)
        paths = paths.map { |path| Shelf.inside(path) }
        paths.each do |path|
          resolved(::File.dirname(path)) # of what lies behind a link to elsewhere, nothing is removed
          ::File.unlink(absolute(path))
        rescue Errno::ENOENT
          nil
        rescue SystemCallError => e
          raise Unreadable.new("#{path} cannot be removed: #{reason(e)}", where: path)
        end
        paths.map { |path| ::File.dirname(path) }.uniq.each { |folder| remove_empty(folder) }
      end

      # @return [Array<Integer>, nil] free and total bytes
      def room = Linux::FreeSpace.of(root)

      private

      def remove_empty(folder)
        until ['.', ''].include?(folder)
          Dir.rmdir(absolute(folder))
          folder = ::File.dirname(folder)
        end
      rescue SystemCallError
        nil # something else lies in it
      end

      def absolute(path) = ::File.join(root, path)

      def resolved(path)
        real = ::File.realpath(absolute(Shelf.inside(path)))
        return real if real == root || real.start_with?("#{root}/") || root == '/'

        raise Refused.new("#{path} is a link that leads out of the shelf", where: path)
      end

      # A folder that cannot be opened is told as a file with a problem.
      def names(folder)
        Dir.children(absolute(folder)).sort
      rescue SystemCallError => e
        yield Entry.new(path: folder, problem: reason(e)) if block_given?
        []
      end

      def of(path, stat)
        Entry.new(path:, size: stat.size, modified_at: stat.mtime, stamp: "#{stat.size}-#{stat.mtime.strftime('%s.%N')}")
      end

      def reason(error) = error.message.sub(/ @ .*/, '').downcase
    end
  end
end
