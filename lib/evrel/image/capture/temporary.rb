# frozen_string_literal: true

module Evrel
  module Image
    # Contents that a system makes anew by itself: what it has put out of its
    # memory. Where they need not be kept they are zeros in the image; their files
    # stay, of the same size, and the file system with them.
    class Temporary
      WINDOWS = %w[/pagefile.sys /swapfile.sys /hiberfil.sys].freeze
      LINUX = %w[/swapfile /swap.img /swap/swapfile /var/swap].freeze
      FSTAB = '/etc/fstab'
      # A swap file begins with a page that mkswap writes; its last ten bytes say what it is, and whether a system's memory
      # was saved there (linux/swap.h, union swap_header). The largest page there is has 64 KiB.
      PAGES = [4096, 8192, 16_384, 65_536].freeze
      SWAP = 'SWAPSPACE2'
      HEADER = PAGES.last

      # One such file: part (number), path, bytes of it that are left out, ranges as byte offset and length on the disk.
      File = Struct.new(:part, :path, :bytes, :ranges, keyword_init: true) do
        def to_h = { 'part' => part, 'path' => path, 'bytes' => bytes }
      end

      # @param map [UsedMap]
      # @return [Array<File>] of parts whose maps are proved
      def self.of(map)
        map.all.reject { |part| part.passed_over || part.whole || part.doubts.any? }.flat_map { |part| new(part).files }
      end

      # @param part [UsedMap::Part]
      def initialize(part)
        @part = part
        @volume = part.volume
      end

      # @return [Array<File>] none where the volume cannot be read, or a system sleeps on it
      def files
        return [] unless @volume.browsable? && !@volume.hibernated?

        case @volume.kind
        when 'ntfs' then WINDOWS.filter_map { |path| file(path) { 0 } }
        when 'ext2', 'ext3', 'ext4' then (LINUX | named).filter_map { |path| file(path) { |entry| HEADER if swap?(entry) } }
        else []
        end
      rescue BadPlace, NotFound
        []
      end

      private

      # @yieldreturn [Integer, nil] bytes at its beginning that are kept; nil where it is all kept
      def file(path)
        entry = @volume.entry(path)
        kept = (yield entry if entry.file? && entry.note.nil?) or return
        ranges = after(kept, @volume.content_extents(entry))
        File.new(part: @part.number, path:, bytes: ranges.sum(&:last), ranges:) if ranges.any?
      rescue BadPlace, NotFound
        nil # there is none, or it cannot be told where it lies
      end

      # Memory that was saved there has another mark.
      def swap?(entry)
        head = @volume.file_head(entry.path, HEADER)
        PAGES.any? { |page| head.byteslice(page - SWAP.bytesize, SWAP.bytesize) == SWAP }
      end

      # @return [Array<String>] paths of swap files as the system names them (fstab(5): what, where, kind)
      def named
        @volume.file_head(FSTAB).force_encoding('UTF-8').scrub.lines.map(&:split)
               .filter_map { |path, _, kind| path if kind == 'swap' && path.start_with?('/') && !path.start_with?('/dev/') }
      rescue NotFound
        []
      end

      # @param extents [Array<(Integer, Integer)>] on the volume, in the order of the file
      # @return [Array<(Integer, Integer)>] on the disk, without its first bytes
      def after(bytes, extents)
        extents.filter_map do |offset, length|
          cut = [bytes, length].min
          bytes -= cut
          [@part.start + offset + cut, length - cut] if length > cut
        end
      end
    end
  end
end
