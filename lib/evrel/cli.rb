# frozen_string_literal: true

require 'json'
require 'optparse'

module Evrel
  # The core for a terminal and for scripts: JSON on standard output, messages
  # on standard error. docs/command-line.md describes the fields.
  class CLI
    FINE = 0
    FINDING = 1
    MISUSE = 2
    FINDINGS = [Damaged, Mismatch, DoesNotFit, Refused].freeze

    USAGE = <<~TEXT
      Usage: evrel COMMAND …
        inspect PATH                                  what is on a disk or in an image
        capture DISK_FILE IMAGE_DIR [--computer NAME] [--note TEXT]
        verify IMAGE_DIR                              every cluster against its digest
        restore IMAGE_DIR DISK_FILE [--no-read-back]  overwrites DISK_FILE, a regular file
        startup PATH                                  read the start-up chain
        try PATH [--expect TEXT] [--limit SECONDS] [--picture FILE]
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
      return misuse(USAGE) unless %w[inspect capture verify restore startup try].include?(command)

      send(:"run_#{command}", rest)
    rescue OptionParser::ParseError, ArgumentError => e
      misuse("evrel #{command}: #{e.message}\n#{USAGE}")
    rescue Error => e
      report(e)
    end

    private

    def run_inspect(arguments)
      path, = operands(arguments, 1)
      with_disk(path) do |disk, image|
        print({ path:, format: image ? 'evrel-image' : 'raw', size_bytes: disk.size,
                manifest: image&.manifest&.document, **Image::Description.of(Image::UsedMap.new(disk)) }.compact)
      end
      FINE
    end

    def run_capture(arguments)
      about = { 'computer' => {}, 'drive' => {}, 'note' => '' }
      parser = OptionParser.new
      parser.on('--computer NAME') { |name| about['computer']['name'] = name }
      parser.on('--note TEXT') { |text| about['note'] = text }
      source, folder = operands(arguments, 2, parser)
      Disk::File.open(source) do |disk|
        print(Image::Capture.new(disk, folder, about:).run { |done, total| show('captured', done, total) }.document)
      end
      FINE
    end

    def run_verify(arguments)
      path, = operands(arguments, 1)
      result = with_image(path) do |image|
        Image::Check.new(image).run { |done, total| show('checked', done * Image::CLUSTER, total * Image::CLUSTER) }
      end
      print({ path:, whole: result.whole?, **result.to_h })
      result.whole? ? FINE : FINDING
    end

    def run_restore(arguments)
      read_back = true
      parser = OptionParser.new
      parser.on('--[no-]read-back') { |value| read_back = value }
      path, target = operands(arguments, 2, parser)
      result = with_image(path) { |image| restore(image, target, read_back) }
      print({ image: path, target:, verified: result.verified?, read_back: result.read_back, written: result.written,
              compared: result.compared, mismatches: result.mismatches, orders: result.orders.map(&:to_h) })
      result.mismatches.empty? ? FINE : FINDING
    end

    def restore(image, target, read_back)
      Disk::File.open(target, writable: true, logical_sector: image.manifest.logical_sector) do |disk|
        plan = Layout.as_in_image(image, disk.size, disk.logical_sector)
        Restore::Engine.new(image:, target: disk, plan:, read_back:).run do |progress|
          show(progress.order, progress.done, progress.total)
        end
      end
    end

    def run_startup(arguments)
      path, = operands(arguments, 1)
      steps = with_disk(path) { |disk, _| Startup.chain(disk) }
      print({ path:, state: Fact.worst(steps), steps: steps.map(&:to_h) })
      steps.any? { |step| step.state == :no } ? FINDING : FINE
    end

    def run_try(arguments)
      options = {}
      picture = nil
      parser = OptionParser.new
      parser.on('--expect TEXT') { |text| options[:expect] = text }
      parser.on('--limit SECONDS', Float) { |seconds| options[:limit] = seconds }
      parser.on('--picture FILE') { |file| picture = file }
      path, = operands(arguments, 1, parser)
      file, format = trial_source(path)
      result = Startup::Trial.new(file, format:, **options).run(picture:)
      print({ path:, **result.to_h })
      result.started? ? FINE : FINDING
    end

    def trial_source(path)
      return [::File.join(path, Image::Native::DISK), 'qcow2'] if ::File.directory?(path)
      raise Unreadable.new("#{path} cannot be read", where: path) unless ::File.readable?(path)

      [path, 'raw']
    end

    # @yield [Disk, Image::Native or nil]
    def with_disk(path)
      return with_image(path) { |image| yield image.disk, image } if ::File.directory?(path)

      Disk::File.open(path) { |disk| yield disk, nil }
    end

    def with_image(path)
      image = Image.open(path)
      yield image
    ensure
      image&.close
    end

    def operands(arguments, count, parser = OptionParser.new)
      rest = parser.parse(arguments)
      raise ArgumentError, "#{count} argument#{'s' if count > 1} expected, #{rest.size} given" unless rest.size == count

      rest
    end

    # A line that overwrites itself, where somebody looks on.
    def show(what, done, total)
      return unless @err.tty? && total.positive?

      @err.print format("\r%<what>-10s %<percent>3d %%", what:, percent: done * 100 / total)
      @err.puts if done >= total
    end

    def print(value) = @out.puts(JSON.pretty_generate(value))

    def misuse(text)
      @err.puts text
      MISUSE
    end

    def report(error)
      @err.puts "evrel: #{error.message}#{" (#{error.where})" if error.where}#{"; #{error.hint}" if error.hint}"
      finding = FINDINGS.any? { |kind| error.is_a?(kind) }
      @out.puts JSON.pretty_generate(error.to_h)
      finding ? FINDING : MISUSE
    end
  end
end
