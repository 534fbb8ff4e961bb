# frozen_string_literal: true

module Evrel
  module Bench
    # A drive as its port shows it at one moment. capacity is bytes, handle its
    # name at its bench, which nothing is decided by; running says that this
    # machine runs from it, in_use what else uses it; port_speed is bytes per
    # second, nil where it is not known; stamp changes whenever its contents may
    # have; local_path is a file or device of this machine, or nil.
    Drive = Struct.new(:bench, :handle, :port, :serial, :wwn, :maker, :model, :capacity, :logical_sector, :physical_sector, :bus,
                       :rotating, :removable, :smart, :read_only, :running, :in_use, :port_speed, :stamp, :local_path,
                       keyword_init: true) do
      # In errors and logs it shows no serial.
      def inspect = "#<#{self.class.name} port #{port.inspect}>"
      alias_method :to_s, :inspect

      def name = "#{maker} #{model}"
      def sectors = capacity / logical_sector
      def health = Health.of(smart)

      # @return [String] what it is known by, wherever it is; see Identity.key
      def key = Identity.key(serial:, wwn:, model: name, capacity:)

      # @return [Array<(String, String)>] bench and port: there is one of them
      def slot = [bench.name, port]

      # @param writable [Boolean]
      # @param docket [String, nil] number of the docket for which it is written to
      # @return [Disk]
      # @raise [Refused] where it is locked to another docket
      # @raise [Unreadable] where it does not answer
      def open(writable: false, docket: nil) = bench.open(self, writable:, docket:)

      # What is read of it, in a process of its own.
      # @yieldparam disk [Disk] closed after the block
      # @yieldreturn [Object] what JSON can say
      # @return [Object] the same
      # @raise [Error] as `open` and Apart.call
      def apart
        Apart.call do
          disk = open
          yield disk
        ensure
          disk&.close
        end
      end

      # Its bytes as a file, for tools that want one: where it lies on this machine, the file or device itself.
      # @yieldparam path [String]
      def as_file(&)
        return yield(local_path) if local_path

        disk = open
        disk.as_file(&)
      ensure
        disk&.close
      end

      # @param path [String] below the place where its file system is mounted
      # @return [Shelf::Folder]
      def mount(path) = bench.mount(self, path)
    end
  end
end
