# frozen_string_literal: true

require 'fileutils'
require 'open3'
require 'tempfile'
require 'tmpdir'

module Evrel
  module Startup
    # Puts files into a volume that lies in a plain file, by the tools of its
    # own system.
    class Editor
      # @param volume [Volume] what lies there
      # @param path [String] of the file
      def self.for(volume, path)
        kind = volume.kind
        return Fat.new(path) if kind.start_with?('fat')
        return Ext.new(path) if kind.start_with?('ext')
        return Ntfs.new(path) if kind == 'ntfs'

        raise Unsupported.new("nothing here writes into #{kind}", where: path)
      end

      def initialize(path)
        @path = path
      end

      # @param name [String] absolute path in the volume; folders on the way are made
      # @param bytes [String] contents, in the place of what was there
      # @param about [Hash] rights, owner and extended attributes, as `about` gives them; where it is empty, those that were
      #   there stay
      # @raise [Damaged] with what the tool says
      def put(name, bytes, about: {})
        Tempfile.create('evrel-put', binmode: true) do |file|
          file.write(bytes)
          file.flush
          put_file(name, file.path, about)
        end
      end

      # @param name [String] absolute path of a symbolic link, where nothing is yet
      # @param target [String] as it stands in the link
      # @raise [Unsupported] where the volume has no such links
      def link(name, _target) = raise(Unsupported.new("no symbolic link is made here: #{name}", where: @path))

      # @param name [String] absolute path of a file
      # @return [Hash] empty for volumes that keep no such thing, or none that another keeps
      def about(_name) = {}

      private

      # @return [Array<String>] folders above a path, the highest first
      def folders(name)
        names = ::File.dirname(name).split('/').reject(&:empty?)
        names.each_index.map { |index| "/#{names[0..index].join('/')}" }
      end

      def tool(*command, input: nil, quiet: false)
        said, status = Open3.capture2e(*command, stdin_data: input.to_s)
        return said if status.success? || quiet

        raise Damaged.new("#{command.first} refuses: #{said.strip.lines.last.to_s.strip}", where: command.last)
      end

      # FAT, by mtools.
      class Fat < Editor
        private

        def put_file(name, from, _about)
          folders(name).each { |folder| tool('mmd', '-i', @path, '-D', 's', "::#{folder}", quiet: true) }
          tool('mcopy', '-o', '-i', @path, from, "::#{name}")
        end
      end

      # Ext, by debugfs: mode and owner of a file that was there are kept.
      class Ext < Editor
        # @return [Hash] mode, uid and gid as debugfs takes them, attributes: name → bytes
        def about(name)
          found = stat(name) or return {}
          names = debugfs("ea_list #{quoted(name)}", write: false).scan(/^\s+([a-z]+\.\S+) \(\d+\)/).flatten
          { **found, attributes: names.to_h { |one| [one, attribute(name, one)] } }
        end

        def link(name, target)
          debugfs(*made_folders(name), "symlink #{quoted(name)} #{quoted(target)}")
          raise Damaged.new("debugfs did not make the link #{name}", where: name) unless stat(name)
        end

        private

        # debugfs makes a second folder of the same name without a word.
        def made_folders(name) = folders(name).reject { |folder| stat(folder) }.map { |folder| "mkdir #{quoted(folder)}" }

        def attribute(name, one)
          Tempfile.create('evrel-attribute', binmode: true) do |file|
            debugfs("ea_get -f #{file.path} #{quoted(name)} #{one}", write: false)
            ::File.binread(file.path)
          end
        end

        def put_file(name, from, about)
          kept = about.empty? ? stat(name) : about.except(:attributes)
          commands = made_folders(name)
          commands << "rm #{quoted(name)}" if stat(name)
          commands << "write #{from} #{quoted(name)}"
          commands.concat(kept ? kept.map { |field, value| "sif #{quoted(name)} #{field} #{value}" } : ["sif #{quoted(name)} mode 0100644"])
          debugfs(*commands)
          about.fetch(:attributes, {}).each { |one, bytes| put_attribute(name, one, bytes) }
          raise Damaged.new("debugfs did not write #{name}", where: name) unless stat(name)
        end

        def put_attribute(name, one, bytes)
          Tempfile.create('evrel-attribute', binmode: true) do |file|
            file.write(bytes)
            file.flush
            debugfs("ea_set -f #{file.path} #{quoted(name)} #{one}")
          end
        end

        def stat(name)
          said = debugfs("stat #{quoted(name)}", write: false)
          mode, user, group = said.match(/Mode:\s+(\d+).*?User:\s+(\d+)\s+Group:\s+(\d+)/m)&.captures
          mode && { mode: "010#{mode}", uid: user, gid: group }
        end

        def quoted(name) = "\"#{name.delete("\"\n")}\""

        def debugfs(*commands, write: true)
          tool('debugfs', *('-w' if write), '-f', '/dev/stdin', @path, input: "#{commands.join("\n")}\n")
        end
      end

      # NTFS, mounted.
      class Ntfs < Editor
        private

        def put_file(name, from, _about)
          Dir.mktmpdir('evrel-ntfs') do |folder|
            tool('ntfs-3g', @path, folder)
            begin
              FileUtils.mkdir_p(::File.dirname("#{folder}#{name}"))
              FileUtils.cp(from, "#{folder}#{name}")
            ensure
              tool('umount', folder)
            end
          end
        end
      end
    end
  end
end
