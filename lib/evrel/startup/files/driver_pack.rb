# frozen_string_literal: true

module Evrel
  module Startup
    # A folder with a driver and the text that describes it (INF: sections of
    # lines "key = value, value"). Read for the hardware that it serves.
    class DriverPack
      MOST_FILES = 500
      LARGEST = 256 * MIB # bytes of a pack
      TEXT = MIB
      # A hit on the first of a device's identifiers is worth the most.
      Match = Struct.new(:pack, :device, :identifier, :rank, keyword_init: true)

      attr_reader :folder, :name, :provider, :kind, :dated, :version, :identifiers

      # @param folder [String]
      # @return [DriverPack]
      # @raise [NotFound] where there is no such folder, or no INF file in it
      # @raise [Damaged] where it holds too much
      def self.read(folder) = new(folder)

      # Packs below a folder, those that match best first; of the same rank the newest.
      # @param folder [String]
      # @param hardware [HardwareList]
      # @return [Array<Match>] the best of each pack
      def self.matching(folder, hardware)
        packs = Dir.children(folder).sort.map { |name| ::File.join(folder, name) }.select { |path| ::File.directory?(path) }
        packs.filter_map { |path| readable(path)&.best(hardware) }.sort_by { |match| [match.rank, -match.pack.dated.to_i, match.pack.name] }
      rescue SystemCallError => e
        raise NotFound.new("the folder of driver packs cannot be read: #{e.message}", where: folder)
      end

      def self.readable(path)
        read(path)
      rescue NotFound, Damaged
        nil
      end
      private_class_method :readable

      def initialize(folder)
        @folder = folder
        @name = ::File.basename(folder)
        raise NotFound.new("#{folder} is no folder", where: folder) unless ::File.directory?(folder)

        inf = files.find do |name, _|
          name.downcase.end_with?('.inf')
        end&.last or raise NotFound.new("#{folder} holds no INF file", where: folder)
        take(text(inf))
      end

      # @return [Hash{String=>String}] name in the pack → path; no links
      def files
        @files ||= Dir.glob('**/*', base: folder).reject { |name| ::File.symlink?(path(name)) }.select { |name| ::File.file?(path(name)) }
                      .sort.to_h { |name| [name, path(name)] }.tap { |found| check(found) }
      end

      # @param hardware [HardwareList]
      # @return [Match, nil]
      def best(hardware)
        hardware.devices.filter_map do |device|
          index = device.hardware_ids.index { |id| identifiers.include?(id) }
          index && Match.new(pack: self, device:, identifier: device.hardware_ids[index], rank: index)
        end.min_by(&:rank)
      end

      private

      def path(name) = ::File.join(folder, name)

      def check(found)
        return if found.size <= MOST_FILES && found.values.sum { |path| ::File.size(path) } <= LARGEST

        raise Damaged.new("#{name} holds too much for a driver pack", where: folder)
      end

      # UTF-16 with its mark, or ASCII.
      def text(path)
        bytes = ::File.binread(path, TEXT).to_s
        if bytes.start_with?("\xFF\xFE".b)
          return bytes.byteslice(2..).force_encoding('UTF-16LE').encode('UTF-8', invalid: :replace,
                                                                                 undef: :replace)
        end

        bytes.force_encoding('UTF-8').scrub
      end

      def take(text)
        sections = sections(text)
        strings = sections.fetch('strings', []).to_h { |key, value| [key.downcase, value.to_s.delete('"')] }
        version = sections.fetch('version', []).to_h.transform_keys(&:downcase)
        @kind = version['class']
        @provider = named(version['provider'].to_s, strings)
        date, @version = version['driverver'].to_s.split(',').map(&:strip)
        @dated = time(date)
        @identifiers = models(sections).to_set
      end

      # @return [Hash{String=>Array<(String, String)>}] name in small letters → its lines
      def sections(text)
        current = nil
        text.each_line.with_object(Hash.new { |hash, key| hash[key] = [] }) do |line, found|
          line = line.sub(/;.*/, '').strip
          if (name = line[/\A\[([^\]]+)\]/, 1]) then current = name.strip.downcase
          elsif current && !line.empty? then found[current] << line.split('=', 2).map(&:strip)
          end
        end
      end

      def named(value, strings) = value.gsub(/%([^%]+)%/) { strings.fetch(Regexp.last_match(1).downcase, Regexp.last_match(1)) }.delete('"')

      # [Manufacturer]: "%name% = section, decoration…"; each section: "%device% = install, identifier, …".
      def models(sections)
        sections.fetch('manufacturer', []).flat_map do |key, value|
          base, *decorations = (value || key).split(',').map { |one| one.strip.downcase }
          [base, *decorations.map { |one| "#{base}.#{one}" }].flat_map do |section|
            sections.fetch(section, []).flat_map { |_, list| list.to_s.split(',').drop(1).map { |id| id.strip.upcase } }
          end
        end
      end

      def time(date)
        month, day, year = date.to_s.split('/').map(&:to_i)
        Time.utc(year, month, day) if year
      rescue ArgumentError
        nil
      end
    end
  end
end
