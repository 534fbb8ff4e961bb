# frozen_string_literal: true

module Evrel
  module Safety
    # What would be lost with a disk: counted from its own file systems.
    class Loss
      MOST_FOLDERS = 300 # with newer files, that are named
      MOST_NEWER = 5_000 # newer files that are named
      MOST_UNSAVED = 200 # files that cannot be saved, that are named
      MOST_ENTRIES = 5_000_000
      EVERY = 500 # entries between two words on how far it is

      # volumes are hashes: part, name, kind, role, used_bytes, files, bytes,
      # newest (path and time), newer (see Newer) and unsaved (see Unsaved), or
      # problem where its files cannot be counted; hosts are names of systems; newer is the sum.
      Result = Struct.new(:volumes, :hosts, :files, :bytes, :newest, :newer_files, :newer_bytes, :unknown, keyword_init: true)

      # @param disk [Disk] is only read
      # @param since [Time, nil] files newer than this are named; nil: all of them
      def initialize(disk, since: nil)
        @disk = disk
        @since = since
      end

      # @yieldparam entries [Integer] counted so far; a block that returns :stop ends it
      # @return [Result]
      # @raise [Damaged] where the table cannot be read: then it cannot be known
      # @raise [Stopped, Unreadable]
      def count(&progress)
        @seen = 0
        @progress = progress
        map = Image::UsedMap.new(@disk, prove: false)
        volumes = map.empty? ? [] : map.all.map { |part| volume(part.partition, part.volume) }
        hosts = Image::Systems.hosts(map)
        unknown, known = volumes.partition { |one| one['problem'] }
        Result.new(volumes:, hosts:, unknown: unknown.map { |one| one['name'] }, **sums(known))
      end

      private

      def sums(known)
        { files: known.sum { |one| one['files'] }, bytes: known.sum { |one| one['bytes'] },
          newest: known.filter_map { |one| one.dig('newest', 'at') }.max,
          newer_files: known.sum { |one| one['newer']['files'] }, newer_bytes: known.sum { |one| one['newer']['bytes'] } }
      end

      def volume(part, volume)
        about = { 'part' => part&.number || 1, 'name' => name(part, volume), 'kind' => volume.kind,
                  'role' => part ? part.role.to_s : 'data', 'used_bytes' => volume.used_bytes }
        return about.merge('problem' => problem(volume)) unless volume.browsable?

        about.merge(tally(volume))
      rescue Damaged, Unreadable => e
        about.merge('problem' => "its files cannot be counted: #{e.message}")
      end

      def name(part, volume)
        [part&.name, volume.label].find { |text| !text.to_s.empty? } || (part ? Table::Types.role_name(part.role) : volume.kind)
      end

      def problem(volume)
        return 'it holds no files' if volume.kind == 'swap'

        volume.used_bytes.zero? ? 'nothing is on it' : 'what is in it cannot be known'
      end

      def tally(volume)
        newest = nil
        files = bytes = 0
        newer = Newer.new
        unsaved = Unsaved.new
        volume.each_entry do |entry|
          step
          next unless entry.file?

          files += 1
          bytes += entry.size
          unsaved.add(entry) if entry.note
          newest = later(newest, entry)
          newer.add(entry) if @since.nil? || (entry.modified_at && entry.modified_at > @since)
        end
        { 'files' => files, 'bytes' => bytes, 'newer' => newer.to_h, 'unsaved' => unsaved.to_h,
          'newest' => newest && { 'path' => newest.path, 'at' => newest.modified_at.iso8601 } }
      end

      def later(one, entry) = entry.modified_at && (one.nil? || entry.modified_at > one.modified_at) ? entry : one

      def step
        @seen += 1
        raise Damaged.new('more files than can be counted', where: 'volume') if @seen > MOST_ENTRIES
        return unless @progress && (@seen % EVERY).zero?

        raise Stopped, 'the counting was stopped' if @progress.call(@seen) == :stop
      end

      # Files that are counted, some of them by name.
      class Counted
        # @param most [Integer] of them that are named
        def initialize(most)
          @most = most
          @named = []
          @files = @bytes = 0
        end

        private

        # @param about [Hash] what is told of it beside its path and size
        def count(entry, about)
          @files += 1
          @bytes += entry.size
          @named << { 'path' => entry.path, 'bytes' => entry.size, **about } if @named.size < @most
        end
      end
      private_constant :Counted

      # Files that cannot be saved, since their contents are not there or cannot be read.
      class Unsaved < Counted
        def initialize = super(MOST_UNSAVED)
        def add(entry) = count(entry, 'note' => entry.note)
        def to_h = { 'files' => @files, 'bytes' => @bytes, 'named' => @named }
      end
      private_constant :Unsaved

      # The newer files of a volume, by folder.
      class Newer < Counted
        def initialize
          super(MOST_NEWER)
          @folders = Hash.new { |all, path| all[path] = { 'path' => path, 'files' => 0, 'bytes' => 0, 'newest' => nil } }
        end

        def add(entry)
          count(entry, 'at' => entry.modified_at&.iso8601)
          folder = @folders[::File.dirname(entry.path)]
          folder['files'] += 1
          folder['bytes'] += entry.size
          folder['newest'] = [folder['newest'], entry.modified_at&.iso8601].compact.max
        end

        # @return [Hash] files, bytes, folders (the fullest first), named (the newest first), complete: whether all are named
        def to_h
          { 'files' => @files, 'bytes' => @bytes, 'complete' => @named.size == @files && @folders.size <= MOST_FOLDERS,
            'folders' => @folders.values.sort_by { |folder| [-folder['bytes'], folder['path']] }.first(MOST_FOLDERS),
            'named' => @named.sort_by { |file| file['at'].to_s }.reverse }
        end
      end
      private_constant :Newer
    end
  end
end
