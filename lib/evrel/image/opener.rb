# frozen_string_literal: true

require 'openssl'

module Evrel
  module Image
    # Opens what lies at a path of a shelf, whatever its format: by content,
    # not by name.
    class Opener
      EDGE = 64 * KIB # bytes of each end that tell one file from another

      # @param shelf [Shelf::Folder, Shelf::Web]
      # @param path [String] of a file, or of a folder in our own format
      # @param kept [Kept, nil] without it nothing is unpacked
      # @param keys [Keys]
      def initialize(shelf, path, kept: nil, keys: Keys.none)
        @shelf = shelf
        @path = Shelf.inside(path)
        @kept = kept
        @keys = keys
      end

      # @yieldparam done [Integer] bytes of a packed file, while it is unpacked
      # @yieldparam total [Integer]; a block that returns :stop ends it
      # @return [Native, Foreign]
      # @raise [Unreadable, Damaged, Unsupported, NotFound] the last where it holds no disk
      def open(&)
        return Native.new(@shelf, @path, keys: @keys) if @shelf.folder?(@path)

        recognise_format
        missing!
        foreign(&)
      end

      # What can be said without unpacking or reading more than heads.
      # @return [Document, nil] nil where the file holds no disk
      # @raise [Unreadable]
      def recognise
        return native if @shelf.folder?(@path)

        recognise_format
        return described if @format != 'raw' || @not_read || plausible_raw?

        @source.close
        nil
      end

      # @return [Array<Shelf::Entry>] the files, after one of the two above
      attr_reader :members

      # @return [String, nil] after `recognise`: why the image cannot be opened as it lies there
      attr_reader :problem

      private

      # What is left of a folder in our own format is still told by its manifest.
      def native
        opened = Native.new(@shelf, @path, keys: @keys)
        opened.manifest
      rescue Locked
        Manifest.parse(@shelf.read("#{@path}/#{Native::MANIFEST}", Manifest::LARGEST + 1))
      rescue Unreadable, Damaged => e
        raise unless @shelf.entry("#{@path}/#{Native::MANIFEST}")

        @problem = e.message
        begin
          Manifest.parse(@shelf.read("#{@path}/#{Native::MANIFEST}", Manifest::LARGEST + 1))
        rescue Damaged
          members = @shelf.siblings("#{@path}/#{Native::MANIFEST}")
          Learnt.closed(format: Manifest::FORMAT, uid: Guid.random, members:, size: nil, problem: e.message)
        end
      ensure
        opened&.close
      end

      def recognise_format
        entry = @shelf.entry(@path) or raise Unreadable.new("#{@path} is not there", where: @path)
        @pieces = Pieces.of(@path, numbered?(entry) ? @shelf.siblings(@path) : [], @shelf)
        @members = @pieces || [entry]
        @source = @pieces ? Disk::Joined.new(@pieces.map { |piece| @shelf.open(piece.path) }) : @shelf.open(@path)
        @format = Format.of(@source)
        @not_read = Format.not_read(@source)
        @claimed = claimed_size
        @uid = uid
      end

      def numbered?(entry) = Pieces::NUMBERED.match?(entry.path)

      def plausible_raw?
        @source.size >= Format::LEAST_RAW && !unknown?(Disk::Window.of_file(@source))
      end

      def unknown?(disk)
        Table.read(disk).nil? && Volume.recognise(disk).is_a?(Volume::Unknown)
      rescue Damaged
        false # damaged is known
      end

      def described
        @problem = @pieces && missing_words
        return closed(@source.size) if @problem

        opened = packed? && @kept&.unpacked(@uid).nil? ? nil : foreign
        return opened.manifest if opened

        Learnt.provisional(Packed.new(@source, @format, @path).head(Learnt::HEAD), format: @format, uid: @uid, members:)
      rescue Locked
        Learnt.locked(format: @format, uid: @uid, members:, size: @claimed)
      rescue Unreadable, Damaged, Unsupported, Refused => e
        return if packed? # what cannot even be begun is no disk

        @problem = e.message
        closed(@claimed)
      ensure
        opened ? opened.close : @source.close
      end

      def closed(size) = Learnt.closed(format: @format, uid: @uid, members:, size:, problem: @problem)

      # A qcow2 file that cannot be opened still says how large its disk is.
      def claimed_size = @format == 'qcow2' && @source.size >= 32 ? @source.read(24, 8).unpack1('Q>').clamp(512, 1 << 50) : @source.size

      def packed? = Packed::TOOLS.key?(@format)

      def missing!
        return unless @pieces && (words = missing_words)

        raise Unreadable.new(words, where: @path, hint: 'put it beside the others')
      end

      def missing_words
        missing = Pieces.missing(@pieces)
        "#{missing.join(', ')} #{missing.size == 1 ? 'is' : 'are'} missing" if missing.any?
      end

      def foreign(&)
        if @not_read
          raise Unsupported.new("#{@not_read} is not read here", where: @path, hint: 'convert it to qcow2 or raw with qemu-img convert')
        end

        disk = disk_of(&)
        Foreign.new(@shelf, @path, format: @format, disk:, members:, uid: @uid,
                                   findings: [*@chain&.findings, *@replayed], kept: @kept, locked: @chain&.locked? || false)
      end

      def disk_of(&)
        case @format
        when 'raw' then Disk::Window.of_file(@source)
        when 'qcow2' then chain
        when *Packed::TOOLS.keys then unpacked(&)
        else by_server
        end
      end

      def chain
        alone = subclusters_alone?
        @chain = Chain.new(@shelf, passphrase: @keys.of(@uid))
        opened = @chain.open(@members.first, @source)
        @members = @chain.members unless @pieces
        opened
      rescue Unsupported
        # Subclusters are beyond the reader here, but not beyond qemu-nbd. That
        # one opens whatever a file names: it gets none that names another.
        raise unless alone && @shelf.local(@path)

        @chain = nil
        by_server
      end

      def subclusters_alone?
        return false if @source.size < 112

        header = Qcow2Header.read(@source.read(0, 112))
        header.version == 3 && header.backing_offset.zero? &&
          header.incompatible.nobits?(~(Qcow2Header::KNOWN_FEATURES | Qcow2Header::EXTENDED_L2))
      end

      def by_server
        local = @shelf.local(@path)
        if local.nil? || @pieces
          raise Unsupported.new("#{Format.name(@format)} can be read from a folder or a drive only, in one piece",
                                where: @path, hint: 'copy it to such a shelf')
        end

        VmdkDescriptor.check(@source, @path) if @format == 'vmdk'
        return Disk::Nbd.new(local, @format) unless @format == 'vhdx' && VhdxLog.waits?(@source)

        @replayed = VhdxLog::FINDING
        Disk::Nbd.new(local, @format) { |folder| VhdxLog.replay(local, folder) }
      end

      def unpacked(&)
        path = @kept&.unpacked(@uid)
        unless path
          raise Unsupported.new("#{@path} is packed: there is no place to unpack it", where: @path) unless @kept

          path = @kept.unpacked_at(@uid)
          part = "#{path}.#{Process.pid}.part"
          Packed.new(@source, @format, @path).unpack(part, most: @kept.most, &)
          ::File.rename(part, path)
          @kept.bound(@uid)
        end
        Disk::File.open(path)
      end

      # The same for the same files, wherever they lie: sizes, times and both ends.
      def uid
        sha = ::OpenSSL::Digest.new('SHA256')
        members.each { |entry| sha << "#{entry.name} #{entry.size} #{entry.modified_at&.to_i}\n" }
        edge = [EDGE, @source.size].min
        [0, @source.size - edge].each { |offset| sha << @source.read(offset, edge) }
        sha.hexdigest[0, 32].sub(/\A(.{8})(.{4})(.{4})(.{4})(.{12})\z/, '\1-\2-\3-\4-\5')
      end
    end
  end
end
