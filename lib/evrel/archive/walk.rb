# frozen_string_literal: true

module Evrel
  module Archive
    # Gives what is taken out to a writer, one entry after the other. A damaged
    # file does not end the archive: it is cut there, filled up with zeros where
    # the format demands it, and written down as such.
    class Walk
      DEEPEST = 200

      # @param volume [Object]
      # @param writer [Zip, Tar]
      def initialize(volume, writer)
        @volume = volume
        @writer = writer
        @missed = []
        @seen = {}
      end

      # @param entries [Array<Volume::Entry>]
      # @return [Array<String>]
      def take(entries)
        entries.each { |entry| one(entry, top(entry), 0) }
        @writer.file(NOTE, Time.now, note.bytesize) { |sink| sink << note } if @missed.any?
        @writer.close
        @missed
      end

      private

      # Names in the archive begin with the last name of what was chosen.
      def top(entry) = entry.path == '/' ? '' : ::File.basename(entry.path)

      def one(entry, name, depth)
        return @missed << "#{entry.path}: is #{entry.note}" if entry.note && !entry.directory?

        case entry.type
        when :directory then folder(entry, name, depth)
        when :file then file(entry, name)
        else @missed << "#{entry.path}: is neither a file nor a folder"
        end
      end

      def folder(entry, name, depth)
        return @missed << "#{entry.path}: lies too deep, or in itself" if depth > DEEPEST || @seen[entry.ref]

        @seen[entry.ref] = true
        @writer.folder(safe(name), entry.modified_at || Time.at(0)) unless name.empty?
        @volume.entries(entry.path).each { |child| one(child, name.empty? ? child.name : "#{name}/#{child.name}", depth + 1) }
      rescue Error => e
        @missed << "#{entry.path}: #{e.message}"
      end

      def file(entry, name)
        @writer.file(safe(name), entry.modified_at || Time.at(0), entry.size) do |sink|
          @volume.read_entry(entry) { |piece| sink << piece }
        rescue Error => e
          @missed << "#{entry.path}: #{e.message}; what could be read of it is in the archive"
        end
      end

      def safe(name) = Archive.safe_name(name)
      def note = "These were not taken, or not whole:\n#{@missed.join("\n")}\n"
    end
  end
end
