# frozen_string_literal: true

module Evrel
  module Startup
    # The partitions of one disk, found by what start-up files call them.
    class Places
      # What a kernel calls a partition: the place where the disk is plugged in, not the disk.
      KERNEL_NAME = %r{\A/dev/(?:[shv]d[a-z]+(\d+)|(?:nvme\d+n\d+|mmcblk\d+)p(\d+))\z}

      attr_reader :disk, :table

      # @param disk [Disk]
      # @param table [Table::Gpt, Table::Mbr]
      def initialize(disk, table)
        @disk = disk
        @table = table
        @volumes = {}
      end

      def partitions = table.partitions

      # @param part [Table::Partition]
      # @return [Object] as in Volume; an Unknown where it is damaged
      def volume(part) = known(part).first

      # @return [Damaged, nil] why its volume cannot be used
      def damage(part) = known(part).last

      # @param spec [String] as in "root=" or fstab: "UUID=…", "PARTUUID=…", "LABEL=…", "PARTLABEL=…", or a device's path
      # @return [Table::Partition, nil]
      def find(spec)
        spec = spec.delete('"\'')
        key, value = spec.split('=', 2)
        return by(key, value) if value
        return by('UUID', ::File.basename(spec)) if spec.start_with?('/dev/disk/by-uuid/')
        return by('PARTUUID', ::File.basename(spec)) if spec.start_with?('/dev/disk/by-partuuid/')
        return by('LABEL', ::File.basename(spec)) if spec.start_with?('/dev/disk/by-label/')

        # Its number is all that can be held against this disk.
        number = spec.match(KERNEL_NAME).to_a.drop(1).compact.first
        number && partitions.find { |part| part.number == number.to_i }
      end

      # @return [Boolean] whether it names a place in which disks are plugged, and so changes
      def changing?(spec) = spec.match?(KERNEL_NAME)

      # @param key [String] "UUID", "LABEL", "PARTUUID" or "PARTLABEL"
      # @return [Table::Partition, nil]
      def by(key, value)
        case key
        when 'PARTUUID' then partitions.find { |part| part.guid.casecmp?(value) }
        when 'PARTLABEL' then partitions.find { |part| part.name == value }
        when 'UUID' then partitions.find { |part| volume(part).uuid.to_s.casecmp?(value) }
        when 'LABEL' then partitions.find { |part| volume(part).label == value }
        end
      end

      # @return [Table::Partition, nil] the first one that has the file
      def with_file(path) = partitions.find { |part| exist?(part, path) }

      # @param name [String] as GRUB names partitions of the disk that it was started from: "hd0,gpt2", "hd0,msdos5", "hd0,1"
      # @return [Table::Partition, nil]
      def by_device(name)
        number = name[/\Ahd0,(?:gpt|msdos)?(\d+)\z/, 1]
        number && partitions.find { |part| part.number == number.to_i }
      end

      # @return [String]
      def device(part) = "hd0,#{table.kind == 'gpt' ? 'gpt' : 'msdos'}#{part.number}"

      # @return [Boolean]
      def exist?(part, path)
        volume(part).browsable? && volume(part).exist?(path)
      rescue Damaged
        false
      end

      # @param limit [Integer] bytes
      # @return [String] binary
      # @raise [NotFound, Damaged]
      def head(part, path, limit)
        raise NotFound.new("#{path} cannot be looked for in #{volume(part).kind}", where: path) unless volume(part).browsable?

        volume(part).file_head(path, limit)
      end

      # @return [String] UTF-8
      # @raise [NotFound, Damaged]
      def text(part, path, limit) = head(part, path, limit).force_encoding('UTF-8').scrub

      # @return [String] what people call a partition
      def word(part) = part.name.empty? ? "#{Table::Types.role_name(part.role)}, partition #{part.number}" : part.name

      private

      def known(part) = @volumes[part.number] ||= Volume.recognise_or_unknown(part.window(disk))
    end
  end
end
