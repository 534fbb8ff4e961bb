# frozen_string_literal: true

require 'open3'

module Evrel
  module Layout
    # Judges of a written disk that know nothing of how it was written: the
    # partition tools, and the check that each file system comes with. They read only.
    class Judges
      # @param path [String] of the disk
      # @param sector [Integer] bytes
      # @param scratch [String] folder in which a volume may be copied
      def initialize(path, sector:, scratch:)
        @path = path
        @sector = sector
        @scratch = scratch
        @tool = Resize::Tool.new(Time.at(0))
      end

      # @return [Array<Fact>]
      # @raise [Damaged] where there is no table that could be read
      def facts
        Disk::File.open(@path, logical_sector: @sector) do |disk|
          table = Table.read(disk)
          next [] unless table

          [sfdisk, (sgdisk if table.kind == 'gpt' && @sector == 512), *table.partitions.sort_by(&:first_lba).map do |part|
            volume(disk, part)
          end].compact
        end
      end

      private

      def sfdisk
        return verdict('sfdisk', 'sfdisk --verify', *@tool.try('sfdisk', '--verify', @path)) if @sector == 512

        # sfdisk takes a file for a disk with sectors of 512 bytes; fdisk can be told.
        said, = @tool.try('fdisk', '-b', @sector.to_s, @path, input: "v\nq\n")
        verdict('sfdisk', 'fdisk, verify', said, said.include?('No errors detected') ? 0 : 1)
      end

      def sgdisk
        said, code = @tool.try('sgdisk', '-v', @path)
        fine = said[/^No problems found/]
        verdict('sgdisk', 'sgdisk -v', fine || said, fine ? code : 1)
      end

      def verdict(id, words, said, code, part: nil)
        return Fact.new(id:, state: :ok, title: "#{words}: fine", detail: last_words(said, 1), part:) if code.zero?

        Fact.new(id:, state: :no, title: "#{words} finds fault", detail: last_words(said, 3), part:)
      end

      # Where the files lie is nobody's business.
      def last_words(said, count)
        said.lines.map do |line|
          line.gsub(%r{#{Regexp.escape(@scratch)}/\S+?: |#{Regexp.escape(@path)}(: )?}, '').strip
        end.reject(&:empty?).last(count).join(' ')[0, 300]
      end

      def volume(disk, part)
        volume, error = Volume.recognise_or_unknown(part.window(disk))
        id = "part-#{part.number}"
        return Fact.new(id:, state: :no, title: "Partition #{part.number} is damaged", detail: error.message, part: part.number) if error

        case volume
        when Volume::Ext then verdict(id, "e2fsck -fn on #{part.number}",
                                      *@tool.try('e2fsck', '-f', '-n', "#{@path}?offset=#{part.start}"), part: part.number)
        when Volume::Fat then cut_out(disk, part) { |file| verdict(id, "fsck.vfat -n on #{part.number}", *@tool.try('fsck.vfat', '-n', file), part: part.number) }
        when Volume::Ntfs then cut_out(disk, part) { |file| verdict(id, "ntfsresize -i on #{part.number}", *@tool.try('ntfsresize', '-i', '-f', file), part: part.number) }
        when Volume::Unknown then nil
        else Fact.new(id:, state: :ok, title: "#{volume.kind} on #{part.number} is there", detail: 'No outside tool checks it here',
                      part: part.number)
        end
      end

      # Tools that know no offset get a sparse copy.
      def cut_out(disk, part)
        FileUtils.mkdir_p(@scratch)
        path = ::File.join(@scratch, "judged-#{part.number}.raw")
        FileUtils.rm_f(path)
        Disk::File.create(path, part.size)
        Disk::File.open(path, writable: true) { |to| copy(disk, part, to) }
        yield path
      ensure
        FileUtils.rm_f(path) if path
      end

      def copy(disk, part, to)
        disk.extents do |offset, length|
          first = [offset, part.start].max
          last = [offset + length, part.end].min
          first.step(last - 1, MIB) { |at| to.write(at - part.start, disk.read(at, [MIB, last - at].min)) } if last > first
        end
      end
    end
  end
end
