# frozen_string_literal: true

require 'tmpdir'

module Evrel
  module Linux
    # Temporary files and folders of processes that were killed: nobody else
    # takes them away. Their names tell whose they were (Dir::Tmpname: a name,
    # the date, the process id and something random).
    module Leftovers
      NAMED = /\Aevrel-[a-z]+\d{8}-(\d+)-\w+\z/
      PLACES = [Dir.tmpdir, '/var/tmp'].freeze
      YOUNG = 600 # seconds: whoever begins may be somebody whose processes are not seen here

      module_function

      # @param places [Array<String>] folders
      # @return [Array<String>] what was removed
      def remove(places = PLACES)
        places.uniq.flat_map { |place| in_folder(place) }.select { |path| left?(path) }.each { |path| Disk::Layer.clear(path) }
      end

      def in_folder(place) = ::Dir.children(place).grep(NAMED).map { |name| ::File.join(place, name) }

      # @return [Boolean] whether it is ours, and nobody's any more
      def left?(path)
        stat = ::File.lstat(path)
        stat.owned? && Time.now - stat.mtime > YOUNG && gone?(::File.basename(path)[NAMED, 1].to_i)
      rescue SystemCallError
        false
      end

      def gone?(pid)
        Process.kill(0, pid) && false
      rescue Errno::ESRCH
        true
      rescue SystemCallError
        false # somebody else's
      end
      private_class_method :in_folder, :left?, :gone?
    end
  end
end
