# frozen_string_literal: true

require 'tempfile'

module Evrel
  module Volume
    # Ext, by debugfs: mode and owner of a file that was there are kept.
    class ExtEditor < Editor
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

      # Its checksums are made with the identity: the tool asks for a check first.
      def identity=(text)
        tool('e2fsck', '-fy', @path, fine: [0, 1])
        tool('tune2fs', '-U', text, @path)
      end

      private

      # debugfs makes a second folder of the same name without a word.
      def made_folders(name) = folders(name).reject { |folder| stat(folder) }.map { |folder| "mkdir #{quoted(folder)}" }

      def attribute(name, one)
        Tempfile.create('evrel-attribute', binmode: true) do |file|
          debugfs("ea_get -f #{file.path} #{quoted(name)} #{one}", write: false, given: [file.path])
          ::File.binread(file.path)
        end
      end

      def put_file(name, from, about)
        kept = about.empty? ? stat(name) : about.except(:attributes)
        commands = made_folders(name)
        commands << "rm #{quoted(name)}" if stat(name)
        commands << "write #{from} #{quoted(name)}"
        commands.concat(kept ? kept.map { |field, value| "sif #{quoted(name)} #{field} #{value}" } : ["sif #{quoted(name)} mode 0100644"])
        debugfs(*commands, given: [from])
        about.fetch(:attributes, {}).each { |one, bytes| put_attribute(name, one, bytes) }
        raise Damaged.new("debugfs did not write #{name}", where: name) unless stat(name)
      end

      def put_attribute(name, one, bytes)
        Tempfile.create('evrel-attribute', binmode: true) do |file|
          file.write(bytes)
          file.flush
          debugfs("ea_set -f #{file.path} #{quoted(name)} #{one}", given: [file.path])
        end
      end

      def stat(name)
        said = debugfs("stat #{quoted(name)}", write: false)
        mode, user, group = said.match(/Mode:\s+(\d+).*?User:\s+(\d+)\s+Group:\s+(\d+)/m)&.captures
        mode && { mode: "010#{mode}", uid: user, gid: group }
      end

      def quoted(name) = "\"#{name.delete("\"\n")}\""

      def debugfs(*commands, write: true, given: [])
        tool('debugfs', *('-w' if write), '-f', '/dev/stdin', @path, input: "#{commands.join("\n")}\n", given:)
      end
    end
  end
end
