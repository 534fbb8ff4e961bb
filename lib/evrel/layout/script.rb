# frozen_string_literal: true

module Evrel
  module Layout
    # A plan as a script for sfdisk(8), and such a script as a wish.
    module Script
      # A line of a partition: "part1 : start=2048, size=…, type=…"; the name in front is free.
      LINE = /\A\s*(?:\S*?(?<number>\d+)\s*:)?\s*(?<fields>(?:start|size|type|uuid|name|attrs|bootable)\b.*)\z/i
      FIELD = /(?<key>[a-z-]+)\s*=\s*(?<value>"[^"]*"|[^,\s]+)/i
      UNITS = { 'K' => KIB, 'M' => MIB, 'G' => GIB, 'T' => 1024 * GIB }.freeze
      MOST_LINES = 2000

      module_function

      # @param plan [Plan] a valid one with a table
      # @return [String]
      # @raise [Refused] where there is no table to write down
      def of(plan)
        table = plan.table or raise Refused.new('this layout has no partition table', where: 'layout')
        head = ["label: #{table.kind == 'gpt' ? 'gpt' : 'dos'}", "label-id: #{table.kind == 'gpt' ? table.guid.upcase : "0x#{table.guid}"}",
                'unit: sectors', "sector-size: #{table.sector}"]
        if table.kind == 'gpt'
          head += ["first-lba: #{table.first_usable}", "last-lba: #{table.last_usable}",
                   "table-length: #{table.entry_count}"]
        end
        [*head, '', *lines(table)].join("\n") << "\n"
      end

      # @param text [String]
      # @param source [Source] whose parts are meant, by their numbers
      # @return [Hash] a wish
      # @raise [Refused] with the line that is wrong
      def wish(text, source)
        lines = text.to_s.dup.force_encoding('UTF-8').scrub('?').lines.map(&:chomp)
        raise Refused.new('the script has too many lines', where: 'script') if lines.size > MOST_LINES

        header = lines.filter_map { |line| line.match(/\A\s*(label|unit|sector-size)\s*:\s*(\S+)/i)&.captures }.to_h
        sector = header.fetch('sector-size', source.sector).to_i
        places = lines.each_with_index.filter_map { |line, index| place(line, index + 1, sector) }
        raise Refused.new('the script names no partition', where: 'script') if places.empty?

        given = numbered(places, source)
        { 'way' => 'by_hand', 'parts' => given.transform_keys(&:to_s), 'leave_out' => source.parts.map(&:number) - given.keys,
          **kind(header['label'], source) }.reject { |_, value| value == [] }
      end

      def lines(table)
        written = table.partitions.map { |part| "part#{part.number} : #{fields(table, part).join(', ')}" }
        extended = table.extended if table.kind == 'mbr'
        return written unless extended

        last = table.partitions.map(&:last_lba).max
        entry = "part#{extended.number} : start=#{extended.first_lba}, size=#{[extended.last_lba, last].max - extended.first_lba + 1}, " \
                "type=#{extended.type.delete_prefix('0x')}"
        primary = table.partitions.select { |part| part.number < extended.number }.size
        written.insert(primary, entry)
      end

      def fields(table, part)
        found = ["start=#{part.first_lba}", "size=#{part.last_lba - part.first_lba + 1}"]
        if table.kind == 'mbr'
          return found + ["type=#{part.type.delete_prefix('0x')}",
                          ('bootable' if part.attributes.anybits?(Table::Mbr::ACTIVE))].compact
        end

        found + ["type=#{part.type.upcase}", "uuid=#{part.guid.upcase}", ("name=\"#{part.name.delete('"')}\"" unless part.name.empty?),
                 ("attrs=\"#{attributes(part)}\"" unless part.attributes.zero?)].compact
      end

      # sfdisk names the first three bits and those from 48 on by their numbers.
      def attributes(part)
        (0..63).select { |bit| part.attributes[bit] == 1 }
               .map do |bit|
          { 0 => 'RequiredPartition', 1 => 'NoBlockIOProtocol',
            2 => 'LegacyBIOSBootable' }[bit] || "GUID:#{bit}"
        end.join(' ')
      end

      def place(line, number, sector)
        return if line.strip.empty? || line.strip.start_with?('#')

        match = line.match(LINE) or return
        given = match[:fields].scan(FIELD).to_h { |key, value| [key.downcase, value.delete('"')] }
        type = given['type'].to_s.downcase
        return if %w[5 f 85 05 0f e extended].include?(type) && type != 'e' # the container is made by itself

        [match[:number]&.to_i,
         { 'start' => amount(given['start'], sector, number), 'size' => amount(given['size'], sector, number) }.compact]
      end

      def amount(text, sector, line)
        return if text.nil? || text == '+'

        match = text.match(/\A(\d{1,20})(?:([KMGT])(?:i?B)?)?\z/i) or
          raise Refused.new("line #{line} of the script has no size that is understood: #{text[0, 40]}", where: "line #{line}")
        match[1].to_i * (match[2] ? UNITS.fetch(match[2].upcase) : sector)
      end

      # Without numbers the lines go in the order of the disk.
      def numbered(places, source)
        order = source.parts.map(&:number)
        places.each_with_index.to_h do |(number, place), index|
          number ||= order[index]
          raise Refused.new("the script has a partition #{number}, the image has not", where: 'script') unless order.include?(number)

          [number, place]
        end
      end

      def kind(label, source)
        wanted = { 'gpt' => 'gpt', 'dos' => 'mbr' }[label.to_s.downcase]
        wanted && wanted != source.kind ? { 'table' => wanted } : {}
      end
      private_class_method :lines, :fields, :attributes, :place, :amount, :numbered, :kind
    end
  end
end
