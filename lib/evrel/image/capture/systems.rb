# frozen_string_literal: true

module Evrel
  module Image
    # Which systems a disk holds, as their own files say (hostname(5),
    # machine-id(5), os-release(5)).
    module Systems
      LONGEST = 4 * KIB # of such a file

      module_function

      # @param map [UsedMap]
      # @return [Array<Hash>] "part", "host", "machine_id", "name"; what is not there is left out
      def of(map)
        map.all.filter_map { |part| system(part.number, part.volume) if part.volume.browsable? }
      end

      # @param map [UsedMap]
      # @return [Array<String>] their host names
      def hosts(map) = of(map).filter_map { |system| system['host'] }.uniq

      def system(number, volume)
        found = { 'host' => line(volume, '/etc/hostname'), 'machine_id' => line(volume, '/etc/machine-id'),
                  'name' => line(volume, '/etc/os-release')&.then do
                    text(volume, '/etc/os-release')[/^PRETTY_NAME="?([^"\n]{1,80})/, 1]
                  end }.compact
        { 'part' => number, **found } if found.any?
      end

      def line(volume, path)
        found = text(volume, path).lines.map(&:strip).find { |one| !one.empty? && !one.start_with?('#') }
        found && found[0, 120]
      end

      def text(volume, path)
        volume.file_head(path, LONGEST).force_encoding('UTF-8').scrub
      rescue Error
        '' # it is not there, or cannot be read: then nothing is known
      end
      private_class_method :system, :line, :text
    end
  end
end
