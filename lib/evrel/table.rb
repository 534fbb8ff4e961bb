# frozen_string_literal: true

module Evrel
  # Partition tables. Every kind answers kind, sector, guid, partitions,
  # findings, source, first_usable, last_usable, for_disk, pieces, write and
  # code_area.
  module Table
    # @param disk [Disk]
    # @return [Table::Gpt, Table::Mbr, nil] nil where the disk has no table that is known
    # @raise [Damaged] where there is a table that cannot be trusted
    def self.read(disk)
      # An MBR without an entry for a GPT rules, even where an old GPT is left behind it.
      found = Mbr.read(disk) || Gpt.read(disk)
      return found if found || !Mbr.protective?(disk)

      raise Damaged.new('the disk says that it has a GPT, but neither copy is there', where: 'GPT')
    end

    # @param parts [Array<Partition>]
    # @raise [Damaged] where two of them share a sector
    def self.check_overlaps(parts)
      parts.sort_by(&:first_lba).each_cons(2) do |one, two|
        next if one.last_lba < two.first_lba

        raise Damaged.new("partitions #{one.number} and #{two.number} overlap at sector #{two.first_lba}",
                          where: "partition #{two.number}")
      end
    end
  end
end
