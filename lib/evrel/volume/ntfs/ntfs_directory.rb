# frozen_string_literal: true

module Evrel
  module Volume
    # The names in one NTFS directory, from its index "$I30": a root within the
    # record, and blocks outside of it. All blocks in use are read in turn
    # instead of walking the tree: no loop can hold the reader up.
    class NtfsDirectory
      INDEX = '$I30'
      LAST = 0x2         # flag of an entry
      DOS = 2            # name space of a name that only repeats another in 8.3
      DIRECTORY = 0x1000_0000 # flags of a FILE_NAME
      REPARSE = 0x400
      ENCRYPTED = 0x4000
      # A directory larger than this is no directory.
      LARGEST = GIB
      # tag is that of a reparse point, nil where it is none.
      Found = Struct.new(:reference, :name, :size, :modified_at, :directory, :tag, :encrypted)

      def initialize(mft, record, block_size, path)
        @mft = mft
        @record = record
        @block = block_size
        @path = path
      end

      # @return [Array<Found>]
      # @raise [Damaged]
      def names
        root = @mft.resident(@record, NtfsAttribute::INDEX_ROOT, INDEX) or raise damaged('has no index')
        # Behind 16 bytes of its own, the root has the header that blocks have too.
        found = entries(root.value.byteslice(16..).to_s)
        blocks { |bytes| found.concat(entries(bytes.byteslice(24..))) }
        found
      end

      private

      def blocks
        stream = @mft.stream(@record, NtfsAttribute::INDEX_ALLOCATION, INDEX) or return
        raise damaged("claims #{stream.size} bytes") if stream.size > LARGEST

        used = @mft.stream(@record, NtfsAttribute::BITMAP, INDEX)&.then { |map| map.read(0, map.size).unpack1('b*') } || ''
        (stream.size / @block).times do |index|
          next unless used[index] == '1'

          yield NtfsRecord.mended(stream.read(index * @block, @block), 'INDX', "index block #{index} of #{@path}")
        end
      end

      # Header: offset of the first entry, and of the end (4 bytes each), both from its own start.
      def entries(bytes)
        at, limit = bytes.unpack('VV')
        raise damaged('has an index that leaves its block') if limit.nil? || limit > bytes.bytesize

        found = []
        while at + 16 <= limit
          reference, length, key_length, flags = bytes.unpack("@#{at}Q<vvv")
          break if flags.anybits?(LAST)
          raise damaged("has an entry of #{length} bytes") if length < 16 || at + length > limit || 16 + key_length > length

          found << name(reference, bytes.byteslice(at + 16, key_length))
          at += length
        end
        found.compact
      end

      # FILE_NAME: modified 16, size 48, flags 56, reparse tag 60, length 64, name space 65, name 66.
      def name(reference, key)
        return if key.bytesize < 66

        modified, size, flags, tag, length, space = key.unpack('@16Q<@48Q<VV@64CC')
        return if space == DOS

        text = Utf16.text(key.byteslice(66, length * 2))
        Found.new(reference, Name.safe(text), size, Ntfs.time(modified), flags.anybits?(DIRECTORY),
                  (tag if flags.anybits?(REPARSE)), flags.anybits?(ENCRYPTED))
      end

      def damaged(message) = Damaged.new("directory #{@path} #{message}", where: @path)
    end
  end
end
