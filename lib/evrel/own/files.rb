# frozen_string_literal: true

module Evrel
  module Own
    # The files of a system in which its name stands, and those that somebody
    # names as templates: the name of the computer that the image is of becomes the
    # new one, and `{column}` what the table says.
    class Files
      # hostname(5), hosts(5)
      HOLD_NAME = %w[/etc/hostname /etc/hosts].freeze
      # An empty one is made anew at the first start (machine-id(5), "first boot semantics").
      MACHINE_ID = '/etc/machine-id'
      # ssh-keygen(1), -A: makes those that are missing or empty.
      HOST_KEYS = %r{\A/etc/ssh/ssh_host_\w+_key(?:\.pub)?\z}
      LARGEST = MIB
      # RFC 1123, chapter 2.1: one label of a name.
      NAME = /\A[A-Za-z0-9](?:[A-Za-z0-9-]{0,61}[A-Za-z0-9])?\z/
      LONGEST = 200 # characters of any other value
      # Not what a shell would take for a variable.
      PLACE = /(?<!\$)\{(\w+)\}/
      MOST = 20 # templates

      # Text of a file before and after.
      Text = Struct.new(:part, :path, :before, :after, keyword_init: true)

      # @param disk [Disk]
      # @param templates [Array<String>]
      # @raise [Refused]
      def initialize(disk, templates)
        @disk = disk
        @templates = templates
        wrong = templates.find { |path| !path.start_with?('/') || path.match?(/[[:cntrl:]]/) }
        raise Refused.new("#{wrong.inspect} is no path from the root of a volume", where: 'templates') if wrong
        raise Refused.new("at most #{MOST} files can be templates", where: 'templates') if templates.size > MOST
      end

      # @param values [Hash{String=>String}]
      # @return [Startup::Mend::Draft]
      def draft(values)
        pieces = texts(values).group_by(&:part).flat_map do |part, found|
          volume = places.volume(part)
          Startup::Mend::Overlay.new(@disk).edit(part) do |path|
            found.each { |text| volume.editor(path).put(text.path, text.after) }
          end
        end
        Startup::Mend::Draft.new(mend: 'own', title: "Name it #{values['name']}", before: host || 'another name', after: values['name'],
                                 changes: Startup::Mend::Change.of(@disk, pieces))
      end

      # @param values [Hash{String=>String}]
      # @return [Array<Text>] only those that change
      def texts(values)
        sound!(values)
        [*filled(values), *emptied].reject { |text| text.before == text.after }
      end

      private

      def table = @table ||= Table.read(@disk) || raise(NotFound.new('the disk has no partition table', where: 'sector 0'))
      def places = @places ||= Startup::Places.new(@disk, table)
      def browsable = @browsable ||= table.partitions.select { |part| places.volume(part).browsable? }

      # @return [Table::Partition] that holds a system with a name, or, where none says its name, the files that are templates
      def system
        @system ||= browsable.find { |part| there?(part, HOLD_NAME.first) } || browsable.find { |part| part.role == :system } ||
                    (browsable.first if @templates.any?) ||
                    raise(NotFound.new('there is no system on the disk whose files are read here', where: 'disk'))
      end

      # @return [String, nil] the name that the system has
      def host
        @host ||= there?(system, HOLD_NAME.first) ? read(system, HOLD_NAME.first).lines.map(&:strip).find { |line| !line.empty? } : nil
      end

      def filled(values)
        names = HOLD_NAME.select { |path| there?(system, path) }.map { |path| [system, path] }
        (names + @templates.map { |path| [holder(path), path] }).uniq.map do |part, path|
          before = read(part, path)
          Text.new(part:, path:, before:, after: filled_in(before, values))
        end
      end

      def filled_in(text, values)
        named = host ? text.gsub(/(?<![\w.-])#{Regexp.escape(host)}(?![\w-])/i) { values.fetch('name') } : text
        named.gsub(PLACE) { values[Regexp.last_match(1)] || Regexp.last_match(0) }
      end

      def emptied
        keys = there?(system, '/etc/ssh') ? places.volume(system).entries('/etc/ssh').map(&:path).grep(HOST_KEYS) : []
        [MACHINE_ID, *keys].select { |path| file?(path) }.map do |path|
          Text.new(part: system, path:, before: read(system, path), after: '')
        end
      end

      # The system first: others may hold a file of that name too.
      def holder(path)
        [system, *browsable].uniq.find { |part| there?(part, path) } or
          raise NotFound.new("no part has the file #{path}", where: path, hint: 'put the template into the image')
      end

      def there?(part, path)
        places.volume(part).entry(path)
        true
      rescue NotFound
        false
      end

      def file?(path) = there?(system, path) && places.volume(system).entry(path).file?

      def read(part, path)
        text = places.volume(part).file_head(path, LARGEST + 1)
        raise Refused.new("#{path} is larger than a template can be", where: path) if text.bytesize > LARGEST

        text.dup.force_encoding('UTF-8').then { |said| said.valid_encoding? ? said : said.b }
      end

      def sound!(values)
        name = values['name'].to_s
        unless name.match?(NAME)
          raise Refused.new("“#{name}” cannot be the name of a computer", where: 'name', hint: 'letters, digits and dashes')
        end

        wrong, text = values.find { |_, value| value.to_s.length > LONGEST || value.to_s.match?(/[[:cntrl:]]/) }
        raise Refused.new("“#{text}” is no value: one line of at most #{LONGEST} characters is", where: wrong) if wrong
      end
    end
  end
end
