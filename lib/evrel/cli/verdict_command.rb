# frozen_string_literal: true

require 'json'

module Evrel
  class CLI
    # The verdicts on disks in regular files, for the command line. A file
    # smart.json beside a disk is taken for its SMART data.
    class VerdictCommand
      # @param image [Image::Native, Image::Foreign]
      # @param path [String] of it
      def initialize(image, path)
        @image = image
        @path = ::File.expand_path(path)
      end

      # @param files [Array<String>] disks, all of them attached at the same time
      # @return [Array<Hash>] path, state, decisions, facts
      # @raise [Unreadable]
      def run(files)
        @known = files.to_h { |file| [file, about(file)] }
        files.map do |file|
          verdict = Safety.judge(candidate(file), purpose)
          { path: file, state: verdict.state, decisions: verdict.decisions, facts: verdict.facts.map(&:to_h) }
        end
      end

      private

      def about(file)
        Disk.at(file) do |disk|
          { size: disk.size, logical_sector: disk.logical_sector, physical_sector: disk.physical_sector, **contents(disk) }
        end
      end

      def contents(disk)
        survey = Survey.of(disk)
        return { guid: nil, hosts: [], newest: nil, volumes: [{ 'kind' => 'a table that cannot be read', 'used_bytes' => 0 }] } if
          survey.problem

        newest = Safety::Loss.new(disk).count.newest
        { guid: survey.disk_guid, hosts: survey.hosts, newest: newest && Time.iso8601(newest), volumes: survey.volumes }
      end

      def candidate(file)
        found = @known.fetch(file)
        same = @known.select { |other, about| other != file && about[:guid] && about[:guid] == found[:guid] }.keys
        Safety::Candidate.new(
          identity: Identity.new(serial: nil, capacity: found[:size]),
          **found.slice(:logical_sector, :physical_sector, :hosts, :newest, :volumes),
          disk_guid: found[:guid], health: health(file), read_only: !::File.writable?(file),
          removable: false, rotating: nil, running: false,
          in_use: in_use(file), bus: 'file', shelves: holds_image?(file) ? ['the image itself'] : [], twins: [], near: {}, conflicts: [],
          same_disk: same
        )
      end

      def purpose
        document = @image.manifest
        Safety::Purpose.new(computer: document.computer['name'] || document.systems.filter_map { |one| one['host'] }.first,
                            needs: document.needs, least: document.least, amount: document.used_bytes,
                            logical_sector: document.logical_sector,
                            shelf: 'the image itself',
                            disk_guid: document.disk_guid, taken_at: document.taken_at, table_kind: document.table_kind,
                            parts: document.parts)
      end

      def health(file)
        Health.of(JSON.parse(::File.read(::File.join(::File.dirname(file), 'smart.json'))))
      rescue Errno::ENOENT, JSON::ParserError
        Health.of(nil)
      end

      def in_use(file)
        ::File.open(file) { |io| 'being written by another process' unless io.flock(::File::LOCK_SH | ::File::LOCK_NB) }
      end

      def holds_image?(file)
        path = ::File.expand_path(file)
        path == @path || @image.members.any? { |member| path.end_with?("/#{member}") && path.start_with?(::File.dirname(@path)) }
      end
    end
  end
end
