# frozen_string_literal: true

require 'openssl'
require 'fileutils'
require 'json'

module Evrel
  module Archive
    # Files of a disk, saved before it is overwritten: NAME.tar.zst with
    # NAME.json beside it, which lists part, path, size, time and SHA-256 of each.
    # It is read back and compared before it counts as saved.
    class Saved
      # files and bytes count what was saved whole; index are hashes as in
      # NAME.json; missed are messages about what was not, or only in part.
      Result = Struct.new(:archive, :index_file, :files, :bytes, :missed, :index, keyword_init: true)

      # @param disk [Disk] is only read
      # @param wanted [Hash{Integer=>Array<String>}] number of the part → paths of files and folders
      # @param path [String] of the archive, without its endings; must not exist
      # @param since [Time, nil] of a folder, only files newer than this
      def initialize(disk, wanted, path, since: nil)
        @disk = disk
        @wanted = wanted
        @archive = "#{path}.tar.zst"
        @index_file = "#{path}.json"
        @since = since
      end

      # @yieldparam bytes [Integer] saved so far; a block that returns :stop ends it
      # @return [Result]
      # @raise [NotFound] where something that is wanted is not there
      # @raise [Mismatch] where the archive does not read back as it was written
      # @raise [Refused, Damaged, Unreadable, Stopped]
      def run(&progress)
        raise Refused.new("#{@archive} is there already", where: @archive) if ::File.exist?(@archive)

        @progress = progress
        @index = []
        @missed = []
        @bytes = 0
        write
        compare
        ::File.write(@index_file, JSON.pretty_generate(files: @index, missed: @missed))
        Result.new(archive: @archive, index_file: @index_file, files: @index.count { |file| file['whole'] }, bytes: @bytes, missed: @missed,
                   index: @index)
      rescue Error, SystemCallError
        [@archive, @index_file].each { |file| ::FileUtils.rm_f(file) }
        raise
      end

      private

      def write
        work = "#{@archive}.part"
        whole = Tool.stream(:into, work, 'zstd', '-q', '-T2', '-c') do |out|
          @tar = Tar.new(out)
          map = Image::UsedMap.new(@disk, prove: false)
          @wanted.each { |number, paths| part(number, volume(map, number), paths) }
          @tar.close
        end
        raise Unreadable.new("#{@archive} cannot be written", where: @archive) unless whole

        sync(work)
        ::File.rename(work, @archive)
      ensure
        ::FileUtils.rm_f(work)
      end

      def sync(path) = ::File.open(path, &:fsync)

      def volume(map, number)
        found = map.all.find { |part| part.number == number }&.volume
        raise NotFound.new("there is no part #{number}", where: "part #{number}") unless found
        raise Unsupported.new('its file system cannot be looked into', where: "part #{number}") unless found.browsable?

        found
      end

      def part(number, volume, paths)
        paths.each do |path|
          entry = volume.entry(path)
          entry.directory? ? folder(number, volume, entry) : file(number, volume, entry)
        end
      end

      def folder(number, volume, entry)
        volume.each_entry(entry.path) do |child|
          file(number, volume, child) if child.file? && (@since.nil? || (child.modified_at && child.modified_at > @since))
        end
      end

      def file(number, volume, entry)
        return if @index.any? && @index.last['path'] == entry.path && @index.last['part'] == number
        return @missed << "#{entry.path}: is #{entry.note}" if entry.note

        whole = true
        sha = OpenSSL::Digest.new('SHA256')
        name = "part-#{number}/#{Archive.safe_name(entry.path)}"
        @tar.file(name, entry.modified_at || Time.at(0), entry.size, digest: sha) do |sink|
          volume.read_entry(entry) { |piece| sink << piece }
        rescue BadPlace, Unsupported => e
          whole = false
          @missed << "#{entry.path}: #{e.message}; what could be read of it is in the archive"
        end
        @index << { 'part' => number, 'path' => entry.path, 'name' => name, 'size' => entry.size,
                    'modified_at' => entry.modified_at&.iso8601, 'sha256' => sha.hexdigest, 'whole' => whole }
        tell(whole ? entry.size : 0)
      end

      def tell(bytes)
        @bytes += bytes
        raise Stopped, 'saving was stopped; nothing is kept of it' if @progress&.call(@bytes) == :stop
      end

      # Reads the archive as it lies there now: every name and digest, in order.
      def compare
        found = []
        TarReader.each(@archive) { |name, sha| found << [name, sha] }
        wanted = @index.map { |file| file.values_at('name', 'sha256') }
        return if found == wanted

        at = found.zip(wanted).find_index { |one, other| one != other } || found.size
        raise Mismatch.new('the archive does not read back as it was written', where: wanted[at]&.first || @archive)
      end
    end
  end
end
