# frozen_string_literal: true

require 'json'
require 'optparse'
require 'tmpdir'

module Evrel
  # The core for a terminal and for scripts: JSON on standard output, messages
  # on standard error. docs/command-line.md describes the fields.
  class CLI
    include Output
    include Starting
    include Writing
    include Taking

    FINE = 0
    FINDING = 1
    MISUSE = 2
    FINDINGS = [Damaged, Mismatch, DoesNotFit, Refused, Locked].freeze

    # What they do in threads would load the same file at the same time, and get in each other's way: it is loaded before.
    THREADED = %w[verify restore run].freeze
    COMMANDS = %w[inspect capture verify plan restore run verdict merge map list take match startup mend try].freeze

    USAGE = <<~TEXT
      Usage: evrel COMMAND … [--passphrase-file FILE]
        inspect PATH                              what is on a disk or in an image
        capture DISK_FILE IMAGE_DIR [--computer NAME] [--note TEXT] [--tolerate-unread]
              [--parts 1,2] [--without-temporary] [--level quick|balanced|small]
              [--salvage FOLDER [--retries NUMBER] [--minutes NUMBER] [--unused]]
              [--onto IMAGE]                      only what differs from it
        merge IMAGE                               makes one whole that lies on top of others
        map PATH                                  what became of a salvage so far
        verify IMAGE                              every cluster, checksums and structures
        plan IMAGE DISK_FILE [--grow N|--spread|--as-is|--shrink|--wish FILE]
              [--sector BYTES] [--firmware uefi|bios] [--sfdisk]
        restore IMAGE DISK [--plan FILE]          overwrites DISK, a file or, with --label, a device
              [--label TEXT] [--scratch FOLDER] [--no-read-back] [--accept-unread]
        run IMAGE DISK… [--label TEXT]…           overwrites all of them at the same time, from one reading,
              [--keep-identity] [--no-read-back] [--accept-unread]   each with an identity of its own
              [--table FILE [--template PATH]…]   and a name of its own
        verdict IMAGE DISK_FILE…                  may these disks be overwritten by it
        list PATH [PATTERN]                       names of files inside
        take IMAGE PART PATH                      a file's contents, to standard output
        match --computer NAME_OR_FILE FOLDER…     which image for which trouble
              [--cause CAUSE] [--since TIME[..TIME]]
        startup PATH [--computer FILE]            read the start-up chain
        mend DISK_FILE STEP [--image IMAGE]       mend a step of it; STEP is its id
              [--computer FILE] [--dry] [--record FILE] | --undo FILE
        try PATH [--expect TEXT] [--command LINE] [--user NAME] [--limit SECONDS]
              [--password-file FILE] [--picture FILE] [--sector BYTES] [--controller NAME] [--computer FILE]
    TEXT

    # @param out [IO] takes JSON
    # @param err [IO] takes messages
    def initialize(out: $stdout, err: $stderr)
      @out = out
      @err = err
    end

    # @param arguments [Array<String>]
    # @return [Integer] the exit code
    def run(arguments)
      command, *rest = arguments
      return misuse(USAGE) unless COMMANDS.include?(command)

      Evrel.load_all if THREADED.include?(command)
      @passphrase = passphrase(rest)
      send(:"run_#{command}", rest)
    rescue OptionParser::ParseError, ArgumentError => e
      misuse("evrel #{command}: #{e.message}\n#{USAGE}")
    rescue Error => e
      report(e, printed: command != 'take') # standard output is the file's there
    rescue SystemCallError => e
      report(Unreadable.new(e.message, where: command), printed: command != 'take')
    end

    private

    def run_inspect(arguments)
      path, = operands(arguments, 1)
      with_image(path) do |image|
        map = Image::UsedMap.new(image.disk)
        print({ path:, format: image.format, members: image.members, size_bytes: image.disk.size, used_bytes: map.used_bytes,
                left_out: Image::LeftOut.new(map, image.disk.size).summary, kept_whole: map.member,
                systems: Image::Systems.of(map), manifest: (image.manifest.document if image.is_a?(Image::Native)),
                findings: (image.findings if image.is_a?(Image::Foreign)), **Image::Description.of(map) }.compact)
      end
      FINE
    end

    def run_verify(arguments)
      path, = operands(arguments, 1)
      result = with_image(path) do |image|
        raise Refused.new('a drive is no image: there is nothing to hold it against', where: path) if image.is_a?(Image::Live)

        Image::Check.new(image).run { |done, total| show('checked', done * Image::CLUSTER, total * Image::CLUSTER) }
      end
      print({ path:, whole: result.whole?, **result.to_h.except(:position) })
      result.whole? ? FINE : FINDING
    end

    def run_plan(arguments)
      command = PlanCommand.new(arguments)
      path, target = operands(arguments, 2)
      plan = with_image(path) { |image| command.plan(image, target) }
      if command.script
        @out.puts Layout::Script.of(plan.valid!)
      else
        print(PlanCommand.view(plan))
      end
      plan.valid? ? FINE : FINDING
    end

    def run_verdict(arguments)
      path, *files = operands(arguments, 2..)
      verdicts = with_image(path) { |image| VerdictCommand.new(image, path).run(files) }
      print({ image: path, disks: verdicts })
      verdicts.any? { |one| one[:state] != :refused } ? FINE : FINDING
    end

    def run_list(arguments)
      path, pattern = operands(arguments, 1..2)
      with_image(path) do |image|
        contents = Image::Contents.new(image)
        found = contents.each_entry.lazy
        found = found.select { |_, entry| named?(entry, pattern) } if pattern
        print({ path:, entries: found.map { |part, entry| entry_view(part, entry) }.to_a, problems: contents.problems,
                unsearched: contents.unsearched })
      end
      FINE
    end

    # A pattern with a "/" is held against the whole path, another against the name.
    def named?(entry, pattern)
      subject = pattern.include?('/') ? entry.path : entry.name
      ::File.fnmatch?(pattern, subject, ::File::FNM_CASEFOLD | ::File::FNM_DOTMATCH)
    end

    def entry_view(part, entry)
      { part:, path: entry.path, type: entry.type, size: entry.size, modified_at: entry.modified_at&.iso8601, note: entry.note }.compact
    end

    def run_take(arguments)
      path, part, file = operands(arguments, 3)
      with_image(path) do |image|
        Image::Contents.new(image).browsable(Integer(part)).read_file(file) { |piece| @out.write(piece) }
      end
      FINE
    end

    def run_match(arguments)
      options = {}
      parser = OptionParser.new
      parser.on('--computer NAME_OR_FILE') { |value| options[:computer] = value }
      parser.on('--cause CAUSE') { |value| options[:cause] = value }
      parser.on('--since TIME') { |value| options[:since] = value }
      folders = operands(arguments, 1.., parser)
      raise ArgumentError, '--computer is missing' unless options[:computer]

      ranked, problems = MatchCommand.new(**options).run(folders)
      print({ images: ranked, problems: })
      ranked.any? { |row| row[:relation] == :own && !row[:ruled_out] } ? FINE : FINDING
    end

    # @yieldparam image [Image::Native, Image::Foreign]
    # @yieldparam kept [Image::Kept] where what is packed was unpacked; it goes afterwards
    def with_image(path)
      Dir.mktmpdir('evrel-unpacked', '/var/tmp') do |folder|
        kept = Image::Kept.new(folder)
        image = device(path) || Image.open(path, kept:, keys: Keys.one(@passphrase)) { |done, total| show('unpacked', done, total) && nil }
        yield image, kept
      ensure
        image&.close
      end
    end

    # A drive as it is now stands for an image of it.
    # @return [Image::Live, nil]
    def device(path)
      return unless ::File.blockdev?(path)

      disk = Disk.at(path)
      Image::Live.new(disk, uid: Image::Live.uid(path, Identity.fingerprint(disk)), taken_at: Time.now)
    end

    # The first line of the file that every command takes by --passphrase-file: a passphrase stands in no list of processes.
    # @param arguments [Array<String>] the option is taken out
    # @return [String, nil]
    def passphrase(arguments)
      at = arguments.index('--passphrase-file') or return
      _, file = arguments.slice!(at, 2)
      raise OptionParser::MissingArgument, '--passphrase-file' unless file

      ::File.open(file, &:readline).chomp
    rescue EOFError
      raise Locked.new("#{file} is empty", where: file)
    end

    # @param count [Integer, Range] how many there must be
    def operands(arguments, count, parser = OptionParser.new)
      rest = parser.parse(arguments)
      return rest if count === rest.size # rubocop:disable Style/CaseEquality -- a number or a range

      wanted = count.is_a?(Range) ? [count.begin, count.end].compact.uniq.join(' or ') : count
      raise ArgumentError, "#{wanted} argument#{'s' unless wanted == 1} expected, #{rest.size} given"
    end
  end
end
