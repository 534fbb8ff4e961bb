# frozen_string_literal: true

module Evrel
  module Image
    # Which bytes of a disk an image has to keep, with what is on it. Only what
    # a proved map calls free may be left out.
    class UsedMap
      # A partition (nil: the whole disk, without a table) with what was
      # recognised in it. error is what kept it from being read, or nil; doubts
      # are texts: why its map of used blocks is not believed, or not all of it;
      # whole says that every byte of it is kept, passed_over that none is, as somebody chose.
      Part = Struct.new(:partition, :disk, :volume, :error, :doubts, :whole, :passed_over, keyword_init: true) do
        def number = partition ? partition.number : 1
        def start = partition ? partition.start : 0
        def end = start + disk.size

        # Yields byte offset on the disk and length of each run that is kept, ascending.
        def each_run
          return enum_for(:each_run) unless block_given?
          return if passed_over

          Volume::Kept.each(volume, disk, whole:) { |offset, length| yield start + offset, length }
        end

        # @return [Integer] bytes in use by its own map, or all that is kept where that is not believed
        def used_bytes
          return 0 if passed_over

          @used_bytes ||= doubts.any? ? each_run.sum(&:last) : volume.used_bytes
        end
      end

      # @return [Table::Gpt, Table::Mbr, nil]
      attr_reader :table

      # @return [Array<Part>] those of the table; none without one
      attr_reader :parts

      # @return [Part, nil] without a table: the volume that fills the disk
      attr_reader :whole

      # @return [String, nil] why all of the disk is kept, whatever its volumes say
      attr_reader :member

      # @param disk [Disk]
      # @param prove [Boolean] whether the maps of volumes are held against what can contradict them, and a disk whose table
      #   cannot be trusted is kept whole. Without it all is only what the disk says, and nothing may be left out by it
      # @raise [Damaged] where the table cannot be trusted, unless that is proved
      # @raise [Unreadable] where the table cannot be read
      def initialize(disk, prove: true)
        @disk = disk
        @prove = prove
        @raid = Volume::Raid.at(disk)
        @table = trusted_table
        @member = membership if table
        @parts = table ? table.partitions.map { |part| recognised(part, part.window(disk)) } : []
        @whole = without_table unless table
      end

      # @return [Array<Part>] those of the table, or the one that fills the disk
      def all = table ? parts : [whole]

      # @return [Integer] bytes of all volumes in use, tables left out
      def used_bytes = all.sum(&:used_bytes)

      # @return [Boolean] whether nothing is on the disk
      def empty? = table.nil? && whole.volume.is_a?(Volume::Unknown) && whole.volume.used_bytes.zero?

      # Yields byte offset and length of each run, ascending.
      def each_run(&block)
        return enum_for(:each_run) unless block
        return whole.each_run(&block) unless table
        return @disk.extents(&block) if member

        pieces = outside.map { |area| [area.first, -> { yield(*area) }] }
        pieces += parts.map { |part| [part.start, -> { part.each_run(&block) }] }
        pieces.sort_by(&:first).each { |_, run| run.call }
      end

      # Yields the number of each cluster that holds used bytes, ascending, and
      # its used ranges as [offset within the cluster, length].
      def each_cluster
        return enum_for(:each_cluster) unless block_given?

        current = nil
        ranges = []
        each_run do |offset, length|
          while length.positive?
            index, within = offset.divmod(CLUSTER)
            take = [CLUSTER - within, length].min
            if index != current
              yield current, ranges if current
              current = index
              ranges = []
            end
            ranges << [within, take]
            offset += take
            length -= take
          end
        end
        yield current, ranges if current
      end

      # @return [Array<(Integer, Integer)>] byte offset and length of what is kept outside of the partitions
      def outside = @outside ||= Outside.new(@disk, table).ranges

      # From now on nothing of the other parts is kept.
      # @param numbers [Array<Integer>] of the parts that are
      # @raise [Refused] where there is no such part, or the disk has to be kept as it is
      def only(numbers)
        unknown = numbers - parts.map(&:number)
        raise Refused.new("there is no part #{Units.list(unknown)} on this disk", where: 'parts') if unknown.any?
        raise Refused.new("#{member}: it is taken whole, or not at all", where: 'parts') if member
        raise Refused.new('no part is chosen', where: 'parts', hint: 'choose one at least') if numbers.empty?

        parts.each { |part| part.passed_over = !numbers.include?(part.number) }
      end

      # From now on all of a part is kept.
      # @param part [Part]
      # @param reason [String]
      def keep_whole(part, reason)
        part.doubts += [reason]
        part.whole = true
      end

      private

      # One that cannot be read bars nothing else.
      def recognised(partition, disk)
        volume, error = volume_of(partition, disk)
        foreign = volume.map ? foreign_words(partition) : []
        doubts = [*foreign, *(volume.doubts if @prove && foreign.empty?)]
        Part.new(partition:, disk:, volume:, error:, doubts:, whole: foreign.any? || whole?(volume))
      end

      # @return [Array<(Object, Error)>] as Volume.recognise_or_unknown
      def volume_of(partition, window)
        return Volume::DynamicDisk.of(window, @disk, table) if partition && Volume::DynamicDisk::TYPES.include?(partition.type)

        Volume.recognise_or_unknown(window)
      rescue BadPlace => e
        [Volume::Unknown.new(window), e]
      end

      # To ask whether a volume is kept whole is to prove its map.
      def whole?(volume) = volume.map.nil? || (@prove && volume.kept_whole?)

      # A partition of a kind that is not known may be more than the volume that seems to lie in it.
      def foreign_words(partition)
        return [member] if member
        return [] if partition.nil? || Table::Types.known?(partition.type)

        ["partitions of type #{partition.type} are not known here"]
      end

      def trusted_table
        Table.read(@disk)&.then { |found| found unless in_place_of?(found) }
      rescue Damaged => e
        raise unless @prove

        @broken = e
        nil
      end

      # Behind a broken table anything may lie.
      def without_table
        return recognised(nil, @disk) unless @broken

        Part.new(disk: @disk, volume: Volume::Unknown.new(@disk), error: @broken, doubts: [], whole: true)
      end

      # A GPT that has something else in the place of its copy is that of the whole RAID, not of this disk.
      def in_place_of?(found)
        @raid && found.kind == 'gpt' && @raid >= Outside.areas(found, @disk.size).last.first
      end

      def membership
        # At the end of the last partition it is that one's.
        return if @raid.nil? || table.partitions.any? { |part| @raid.between?(part.start, part.end - 1) }

        'the disk is a member of a RAID'
      end
    end
  end
end
