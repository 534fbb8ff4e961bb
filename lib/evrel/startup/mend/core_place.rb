# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # Where GRUB's core lies on an image, and where it belongs on a disk: in the
      # gap in front of the first partition, or in a partition of its own, which
      # may lie elsewhere on the disk.
      class CorePlace
        # @param image [Disk]
        # @param disk [Disk]
        # @param table [Table] of the disk
        def initialize(image, disk, table)
          @image = image
          @disk = disk
          @table = table
        end

        def core = @core ||= GrubCore.new(@image)

        # @return [Integer] sectors from where it lies on the image to where it belongs on the disk
        # @raise [Refused] where the image has none, or the disk has no partition for it
        # @raise [DoesNotFit] where there is no room for it
        def shift
          raise Refused.new('the image has no core of GRUB', where: 'image') unless core?
          return in_gap if core.within?(0, first(Table.read(@image), @image))

          from = own(Table.read(@image))
          to = own(@table)
          scattered unless from && core.within?(from.start, from.end)
          raise Refused.new('the disk has no partition for the core of GRUB', where: 'table') unless to

          moved(to, (to.start - from.start) / GrubCore::SECTOR, from.start - to.start)
        end

        private

        def core? = GrubCore.boots?(@image.read(0, GrubCore::SECTOR)) && core.there? && core.listed?
        def first(table, disk) = table&.partitions.to_a.map(&:start).min || disk.size
        def own(table) = table&.partitions&.find { |part| part.type == Table::Types::BIOS_BOOT }

        def scattered = raise(Refused.new('the core of GRUB lies scattered on the image', where: 'image'))

        def in_gap
          return 0 if core.within?(0, first(@table, @disk))

          raise DoesNotFit.new('the gap in front of the first partition is too small for the core', where: 'sector 1')
        end

        def moved(part, sectors, bytes)
          return sectors if core.within?(part.start + bytes, part.end + bytes)

          raise DoesNotFit.new("partition #{part.number} is too small for the core", where: "partition #{part.number}")
        end
      end
    end
  end
end
