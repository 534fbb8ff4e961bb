# frozen_string_literal: true

module Evrel
  module Startup
    # What GRUB starts when nobody touches a key: its configuration carried
    # out, as far as it decides that. Commands that only set up the screen or
    # load modules are passed over.
    class GrubConfig
      MOST_STEPS = 20_000
      DEEPEST = 12 # configurations that load each other, and functions

      # A place that the configuration looks for and does not find.
      # spec is what it would be called elsewhere ("UUID=…"), or nil; file the part and path of a configuration, or nil.
      Missing = Struct.new(:what, :where, :spec, :file)

      # damaged is the part and path of the configuration that cannot be followed, or nil; in_vain the last search for its
      # root, where that found nothing.
      attr_reader :missing, :damaged, :in_vain

      # @param places [Places] partitions of the disk
      # @param root [Table::Partition, nil] where the loader's own files lie
      # @param prefix [String] folder there
      # @param cmdpath [String] from where the firmware loaded it: a device, and with UEFI a folder
      #   (grub_set_prefix_and_root in GRUB's kern/main.c)
      # @param platform [String] as it was built for: "pc" or "efi"
      def initialize(places, root, prefix, cmdpath: '(hd0)', platform: 'pc')
        @places = places
        @variables = { 'root' => root, 'prefix' => prefix, 'cmdpath' => cmdpath, '?' => '0', 'grub_platform' => platform,
                       'grub_cpu' => platform == 'efi' ? 'x86_64' : 'i386' }
        @prefix_part = root
        @functions = {}
        @missing = []
        @steps = @depth = 0
      end

      # Carries out what the loader itself carries: it may set root and prefix, or start something, or read what does.
      # @param text [String]
      # @return [Choice, nil] nil where it goes on with the configuration in its prefix
      # @raise [Damaged]
      def embedded(text)
        @config = [nil, 'inside of the loader']
        chosen { run(GrubScript.parse(text)) }.tap do
          @prefix_part, @variables['prefix'] = located(@variables['prefix'].to_s)
        end
      end

      # @return [(Table::Partition, String)] where the loader's own files lie
      def prefix = [@prefix_part, @variables['prefix'].to_s]

      # @param path [String] on the partition of the prefix
      # @return [Choice, nil] nil: no entry
      # @raise [Damaged, NotFound]
      def choice(path) = chosen { run_file(@prefix_part, path) }

      private

      def chosen
        @menu = []
        @made = Choice.new(initrds: [])
        yield
        return @made if @made.kernel || @made.chained # started without a menu

        GrubMenu.chosen(@menu, @variables['default'].to_s)&.then { |entry| start(entry) }
      end

      def start(entry)
        @made = Choice.new(initrds: [], title: entry.title, where: entry.where, config: entry.config)
        run(entry.body)
        @made
      end

      def run_file(part, path)
        raise NotFound.new("#{path} is looked for on a partition that is not there", where: path) unless part

        text = @places.text(part, path, GrubScript::LARGEST)
        before = @config
        @config = [part, path]
        deeper { run(GrubScript.parse(text)) }
      rescue Damaged
        @damaged ||= [part, path]
        raise
      ensure
        @config = before if before
      end

      def deeper
        raise Damaged.new("configurations that load each other go round in #{@config.last}", where: @config.last) if (@depth += 1) > DEEPEST

        yield
      ensure
        @depth -= 1
      end

      # @return [Boolean] whether the last command succeeded
      def run(statements)
        done = true
        statements.each { |statement| done = step(statement) }
        done
      end

      def step(statement)
        raise Damaged.new("#{@config.last} does not come to an end", where: @config.last) if (@steps += 1) > MOST_STEPS

        case statement
        when GrubScript::Function then (@functions[statement.name] = statement.body) && true
        when GrubScript::If then branch(statement)
        when GrubScript::Loop then true
        else command(statement)
        end
      end

      def branch(statement)
        body = statement.branches.find { |condition, _| run(condition) }&.last || statement.other
        run(body)
      end

      def command(statement)
        name, *words = statement.words.map { |pieces| expand(pieces) }
        return assign("#{name}=#{words.join}") if name.match?(/\A\w+=/) # "name=value" alone is an error in GRUB; no harm
        return deeper { run(@functions[name]) } if @functions.key?(name)

        @line = statement.line
        @block = statement.block
        GrubCommands::METHODS.key?(name) ? send(GrubCommands::METHODS[name], words) : true
      end

      def no(_) = false

      def expand(pieces)
        pieces.map do |text, variables|
          variables ? text.gsub(/\$\{(\w+|\?)\}|\$(\w+|\?)/) { written(@variables[Regexp.last_match(1) || Regexp.last_match(2)]) } : text
        end.join
      end

      # A partition in a variable is written as GRUB names devices.
      def written(value) = value.is_a?(Table::Partition) ? @places.device(value) : value.to_s

      def set(words) = words.all? { |word| assign(word) }

      def assign(word)
        name, value = word.split('=', 2)
        return true unless value

        @variables[name] = name == 'root' ? part_named(value) || value : value
        true
      end

      def unset(words) = words.each { |word| @variables.delete(word) } && true

      # "(hd0,gpt2)" or "hd0,gpt2"
      def part_named(text) = @places.by_device(text.delete('()'))

      def search(words)
        return search_uuid(words) if words.include?('--fs-uuid') || words.include?('-u')
        return search_label(words) if words.include?('--label') || words.include?('-l')

        search_file(words)
      end

      def search_uuid(words) = searched(words, 'the UUID', 'UUID') { |value| @places.by('UUID', value) }
      def search_label(words) = searched(words, 'the label', 'LABEL') { |value| @places.by('LABEL', value) }
      def search_file(words) = searched(words, 'the file') { |value| @places.with_file(value) }

      def searched(words, kind, key = nil)
        variable, value = sought(words)
        found = yield(value)
        @missing << (in_vain = Missing.new("#{kind} #{value}", place, key && "#{key}=#{value}")) unless found
        @in_vain = in_vain if variable == 'root'
        @variables[variable] = found if found
        !found.nil?
      end

      # @return [(String, String)] the variable that is set, and what is looked for
      def sought(words)
        values = plain(words)
        variable = words.filter_map { |word| word[/\A--set=(.+)/, 1] }.first
        variable ||= values.shift if words.intersect?(%w[--set -s]) && values.size > 1
        [variable || values[1] || 'root', values.first.to_s]
      end

      # Words that are no options; --hint and its like take none.
      def plain(words) = words.reject { |word| word.start_with?('-') }

      def load_env(words)
        file = words.each_cons(2).find { |one, _| %w[-f --file].include?(one) }&.last || plain(words).find { |word| word.include?('/') }
        part, path = located(file || "#{@variables['prefix']}/grubenv")
        @places.text(part, path, 4 * KIB).each_line { |line| assign(line.chomp) if line.match?(/\A\w+=/) }
        true
      rescue NotFound, Damaged
        false
      end

      def menu_entry(words)
        id = words.each_cons(2).find { |one, _| one == '--id' }&.last
        id ||= words.filter_map { |word| word[/\A--id=(.+)/, 1] }.first
        @menu << GrubMenu::Entry.new(words.first, id, @block.to_a, place, @config, nil)
        true
      end

      # Its block makes entries of its own.
      def submenu(words)
        menu_entry(words)
        entry = @menu.last
        outer = @menu
        @menu = []
        deeper { run(entry.body) }
        entry.entries = @menu
        true
      ensure
        @menu = outer if outer
      end

      def linux(words)
        @made.kernel = located(words.first.to_s)
        @made.options = words.drop(1).join(' ')
        @made.where ||= place
        @made.config ||= @config
        true
      end

      def initrd(words) = (@made.initrds = plain(words).map { |word| located(word) }) && true

      def chain(words)
        @made.chained = located(plain(words).first.to_s)
        @made.where ||= place
        true
      end

      def configure(words)
        run_file(*located(words.first.to_s))
        true
      rescue NotFound
        @missing << Missing.new("the file #{words.first}", place, nil, located(words.first.to_s))
        false
      end

      # @return [(Table::Partition, String)] where a path lies; the partition is nil where it is on none of this disk
      def located(text)
        device, path = text.match(/\A\(([^)]*)\)(.*)\z/m)&.captures || [nil, text]
        part = device ? part_named(device) : @variables['root']
        [part.is_a?(Table::Partition) ? part : nil, path]
      end

      def place = "#{@config.last}, line #{@line}"

      def test(words) = GrubTest.new { |path| there?(path) }.call(words)

      def there?(path) = located(path).then { |part, name| part ? @places.exist?(part, name) : false }
    end
  end
end
