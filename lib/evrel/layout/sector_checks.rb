# frozen_string_literal: true

module Evrel
  module Layout
    # Sectors of another size, and on what the parts begin.
    class SectorChecks
      include Finding

      # @return [Array<Fact>]
      def all = [*sectors, *alignment]

      private

      # What cannot live on the target's sectors.
      def sectors
        return [] if @source.sector == @target.sector

        bad = @placed.select { |one| stuck?(one.part) }.map do |one|
          fact('sectors', :no, "#{one.part.word} cannot live on sectors of #{@target.sector} bytes", stuck_words(one.part),
               part: one.number)
        end
        [*bad,
         fact('sector', code_stays? ? :ask : :ok, "Sectors change from #{@source.sector} to #{@target.sector} bytes", changes.join('; '))]
      end

      def code_stays? = @source.kind == 'mbr' && @target.firmware == 'bios'

      def changes
        remade = @placed.select { |one| Planner.how(one.part, one.size, @target.sector) == :remake }
        ['The table counts anew',
         *("#{Units.list(remade.map { |one| one.part.word + becomes(one) })} is made anew with the same files" if remade.any?),
         *('code in front of the first partition stays behind: it will not start by BIOS' if code_stays?)]
      end

      def becomes(one)
        return '' unless one.part.kind == 'fat32'

        Volume::FatResizer.bits(32, one.part.volume['block_size'].to_i, one.size, @target.sector) == 16 ? ' (as FAT16)' : ''
      end

      # Volumes that count in smaller sectors than the drive has.
      def stuck?(part)
        return false if @target.sector <= @source.sector || part.limits.resizer&.any_sector?

        part.volume['sector_size'].to_i.between?(1, @target.sector - 1)
      end

      def stuck_words(part)
        "Its #{part.kind} counts in units of #{part.volume['sector_size'] || 512} bytes: leave it out, or choose a drive with sectors " \
          "of #{@source.sector}"
      end

      def alignment
        within = @placed.select { |one| (one.start % @target.sector).nonzero? }
        return within.map { |one| within_sector(one) } if within.any?
        return [old_tracks] if @arrange.unit == 63 * @source.sector

        off = @placed.find { |one| (one.start % MIB).nonzero? }
        [off ? not_whole(off) : aligned]
      end

      def within_sector(one)
        fact('sector_align', :no, "#{one.part.word} begins within a sector",
             "Byte #{one.start} is no multiple of #{@target.sector}: let it move", part: one.number)
      end

      def aligned = fact('alignment', :ok, 'Aligned to 1 MiB', "Suits the #{@target.physical_sector}-byte sectors of this drive")

      def not_whole(one)
        where = "#{one.part.word} begins at sector #{one.start / @target.sector}"
        return fact('alignment', :ok, "Aligned to #{@target.physical_sector} bytes", "As in the image: #{where}", part: one.number) if
          (one.start % @target.physical_sector).zero?

        fact('alignment', :ask, "#{one.part.word} is not aligned", "#{where}: slower on this drive, as it was in the image",
             part: one.number)
      end

      def old_tracks
        fact('alignment', :ask, 'Kept on old tracks of 63 sectors',
             "As in the image: slower on a drive with sectors of #{@target.physical_sector} bytes; " \
             'aligned to 1 MiB it would be as fast as it can be')
      end
    end
  end
end
