# frozen_string_literal: true

module Evrel
  module Warden
    # Decides by itself whether a drive is opened for writing, and opens it.
    class Door
      # @param benches [Array<Bench>]
      def initialize(benches)
        @benches = benches
      end

      # @param asked [Hash] as in Warden
      # @return [File] open for reading and writing, and for nobody else where it is a device
      # @raise [NotFound, Away, Refused, Unsupported, Unreadable]
      def open(asked)
        drive = attached(asked)
        same!(drive, asked)
        free!(drive, asked['docket'])
        writable!(drive)
        descriptor(drive)
      end

      private

      def attached(asked)
        bench = @benches.find { |one| one.name == asked['bench'] } or raise NotFound.new('there is no such bench here', where: 'bench')
        bench.drives.find { |one| one.port == asked['port'] } or
          raise Away.new('the drive does not answer any more', where: "port #{asked['port'].to_s[0, 20]}")
      end

      def same!(drive, asked)
        return if drive.key == asked['key'] && drive.capacity == asked['capacity']

        refuse(drive, 'it is another drive', 'look at the drive, and seal the target again')
      end

      def free!(drive, docket)
        holder = drive.bench.lock_on(drive)
        refuse(drive, "it is locked to #{holder}") unless holder.nil? || holder == docket
      end

      def writable!(drive)
        refuse(drive, 'this machine runs from it') if drive.running
        refuse(drive, "it is in use: #{drive.in_use}") unless drive.in_use.to_s.empty?
        refuse(drive, 'it is read-only') if drive.read_only
      end

      # O_EXCL without O_CREAT: the kernel refuses a device of which it uses anything itself (open(2)).
      def descriptor(drive)
        path = drive.local_path or raise Unsupported.new('the drive has no device on this machine', where: "port #{drive.port}")
        io = ::File.open(path, ::File::RDWR | ::File::BINARY | ::File::EXCL | ::File::NOFOLLOW)
        return io if io.stat.file? || io.stat.blockdev?

        io.close
        raise Unreadable.new('what is there is no drive', where: "port #{drive.port}")
      rescue Errno::EBUSY
        refuse(drive, 'this machine uses it', 'unmount it, or choose another')
      rescue SystemCallError => e
        raise Unreadable.new("the drive cannot be opened: #{e.message.sub(/ @ .*/, '').downcase}", where: "port #{drive.port}")
      end

      def refuse(drive, why, hint = nil)
        raise Refused.new("the drive in port #{drive.port} is not opened for writing: #{why}", where: "port #{drive.port}", hint:)
      end
    end
  end
end
