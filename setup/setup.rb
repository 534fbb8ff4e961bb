# frozen_string_literal: true

require 'digest'
require 'fileutils'
require 'open3'
require 'rbconfig'
require 'socket'

# Prepares a machine for Evrel, with Ruby's own library only: it runs before
# any gem is there. Every step says what it does and how long it took.
module Setup
  ROOT = File.expand_path('..', __dir__)

  # Something that the person at the keyboard has to mend.
  class Problem < StandardError; end

  $stdout.sync = true

  # Debian keeps the tools for disks and modules where an ordinary user's shell does not look.
  ENV['PATH'] = (ENV.fetch('PATH', '').split(':') | %w[/usr/local/sbin /usr/sbin /sbin]).join(':')

  module_function

  # @param what [String] said with how long it took; a step that had nothing to do says so
  def step(what)
    before = now
    outcome = yield
    told(what, outcome == :nothing ? 'there already' : format('%.1f s', now - before))
  rescue StandardError
    told(what, 'failed')
    raise
  end

  # One write a line: steps are done beside each other.
  def told(what, how) = $stdout.write("#{what.ljust(34)} #{how}\n")

  # @raise [Problem] with the last lines of what the command said
  def run(*command, env: {}, dir: ROOT, hint: nil)
    output, status = Open3.capture2e(env, *command, chdir: dir, stdin_data: '')
    return output if status.success?

    # What is wrong stands first, or last.
    lines = output.lines
    said = (lines.size > 12 ? [*lines.first(4), "…\n", *lines.last(8)] : lines).join
    raise Problem, "#{command.join(' ')} failed#{"; #{hint}" if hint}:\n#{said}"
  end

  # Runs the block only if what it depends on has changed since the last time.
  # @param name [String]
  # @param files [Array<String>] what it depends on
  def when_changed(name, files)
    file = stamp(name)
    digest = Digest::SHA256.hexdigest(files.sort.map { |path| "#{path} #{Digest::SHA256.file(path)}" }.join("\n"))
    return :nothing if File.exist?(file) && File.read(file) == digest

    yield
    FileUtils.mkdir_p(File.dirname(file))
    File.write(file, digest)
  end

  # @return [Boolean] whether it was done once
  def stamped?(name) = File.exist?(stamp(name))

  def stamp(name) = File.join(ROOT, 'var', 'stamps', name)

  # Everything up to and including the front end. The pages need nothing of
  # what Debian and Ruby bring: both are fetched, and built, at the same time.
  # @param tests [Boolean] with what only tests need
  def prepare(tests: false)
    puts 'Preparing: on a new machine this takes some minutes.'
    beside(-> { machine(tests) }, -> { pages })
    step('Fonts for paper') { PaperFonts.unpack }
  end

  def machine(tests)
    step('Debian packages') { Packages.install }
    step('Gems') { Gems.install(tests:) }
    finding = Acceleration.find_out
    step('Kernel and loader for the demo') { StartFiles.fetch }
    step('Acceleration of the emulator') { finding.value }
  end

  def pages
    step('Front end: packages') { FrontEnd.install }
    step('Front end: build') { FrontEnd.build }
  end

  # @param doings [Array<Proc>] in a thread each
  # @raise [Problem] of the first that has one, after all have ended: a command that was begun is not left behind
  def beside(*doings)
    threads = doings.map do |doing|
      Thread.new do
        doing.call
        nil
      rescue Problem => e
        e
      end
    end
    problem = threads.filter_map(&:value).first
    raise problem if problem
  end

  def port_free?(port)
    TCPServer.new('127.0.0.1', port).close
    true
  rescue Errno::EADDRINUSE
    false
  end

  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
end

require_relative 'packages'
require_relative 'ruby_gems'
require_relative 'acceleration'
require_relative 'front_end'
require_relative 'paper_fonts'
require_relative 'start_files'
require_relative 'account'
require_relative 'database'
