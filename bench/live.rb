# frozen_string_literal: true

require 'fileutils'
require 'json'
require 'socket'
require 'tmpdir'
require_relative 'made_disk'
require_relative 'report'
require_relative '../spec/support/by_wire'

# What open pages cost a write, and how soon they hear of something: the whole
# application with a data folder of its own, written with and without pages.
class LiveBench
  PAGES = 50
  PORT = 8745
  SERIAL = 'TF48-2209-7Q4F' # the replacement drive of the demo
  TARGET = { port: '3', label: SERIAL[-4..], reason: 'only to measure' }.freeze
  OTHER = 'TF48-2209-7Q1F'  # in port 1
  DOCKET_OF = 'TKT-03'
  EVERY = 1.0 # seconds between two things that happen

  def initialize(megabytes, runs)
    @megabytes = megabytes
    @runs = runs
  end

  def run
    Dir.mktmpdir('evrel-bench', '/var/tmp') do |folder|
      @folder = folder
      begin
        start
        ready
        Report.new('live', megabytes: @megabytes, runs: @runs, pages: PAGES).give(measure)
      ensure
        stop
      end
    end
  end

  private

  def start
    env = { 'EVREL_VAR' => @folder, 'EVREL_PORT' => PORT.to_s, 'EVREL_DB_PORT' => '33077', 'EVREL_DB_NAME' => nil,
            'EVREL_FILES_PORT' => '8746', 'EVREL_DEMO' => 'small' }
    @evrel = IO.popen([env, File.expand_path('../bin/start', __dir__)], err: %i[child out], pgroup: true)
    until (line = @evrel.gets).include?('Ctrl C')
      raise 'it did not start' unless line
    end
    @wire = ByWire.new(PORT)
    @wire.sign_in('ina', File.read(File.join(@folder, 'demo-password')))
  end

  def stop
    return unless @evrel

    Process.kill(:TERM, @evrel.pid)
    Process.wait(@evrel.pid)
  end

  # An image that is worth measuring on the demo's shelf, a drive as fast as the machine, and all sealed.
  def ready
    disk = File.join(@folder, 'made.raw')
    MadeDisk.new(disk, @megabytes).make
    shelf = @wire.call(:get, '/shelves').first
    about = { 'computer' => { 'name' => DOCKET_OF, 'firmware' => 'uefi', 'system_identity' => '4C1E77A0-TKT03' }, 'note' => 'measured' }
    Evrel::Disk::File.open(disk) { |opened| Evrel::Image::Capture.new(opened, File.join(shelved, 'measured'), about:).run }
    FileUtils.rm_f(disk)
    about = File.join(@folder, 'bench', 'drives', SERIAL, 'drive.json')
    File.write(about, File.read(about).sub(/"bytes_per_second": \d+/, '"bytes_per_second": 9000000000'))
    @wire.call(:post, "/shelves/#{shelf['id']}/look")
    seal
  end

  # Where the demo's shelf drive is mounted.
  def shelved = Dir[File.join(@folder, 'bench', 'shelves', '*')].first

  def seal
    @docket = @wire.call(:get, '/dockets')['dockets'].find { |one| one['computer'] == DOCKET_OF }['id']
    @wire.call(:post, "/dockets/#{@docket}/stations/computer/seal")
    sleep 0.2 until (image = images.find { |one| one['note'] == 'measured' })
    @wire.seal(@docket, image: image['id'], **TARGET)
  end

  def images = @wire.call(:get, "/dockets/#{@docket}/stations/image")['view']['images']

  # With and without pages in turn, so that a noisy minute hits both.
  def measure
    written # once, so that both begin with the same in memory
    delays = []
    pairs = Array.new(@runs) { [written { happens([]) }, with_pages { |pages| written { delays << happens(pages) } }] }
    without, with = pairs.transpose.map { |some| some.sort[@runs / 2] }
    { "a write while #{PAGES} pages are open" =>
        { seconds: with.round(2), against: 'the same without a page', their_seconds: without.round(2), ratio: (with / without).round(3) },
      'from what happens at the bench to the last page that hears of it' => delay(delays) }
  end

  def delay(all)
    sorted = all.sort
    { median: sorted[all.size / 2].round(2), highest: sorted.last.round(2), times: all.size }
  end

  # @return [Float] seconds of one write with its read-back
  def written
    # What it holds by now is not what was sealed.
    @wire.call(:delete, "/dockets/#{@docket}/stations/target/seal")
    @wire.seal_target(@docket, **TARGET)
    id = @wire.call(:post, "/dockets/#{@docket}/write")['id']
    loop do
      sleep EVERY
      yield if block_given?
      write = @wire.call(:get, '/writes').find { |one| one['id'] == id }
      raise "the write ended as #{write}" if %w[failed stopped].include?(write['state'])
      return seconds(write) if write['state'] == 'done'
    end
  end

  def seconds(write) = write['outcomes'].sum { |order| order['seconds'] }

  # Plain sockets that are read all the time, as browsers on other machines do.
  def with_pages
    pages = Array.new(PAGES) { page }
    yield pages
  ensure
    pages&.each(&:close)
  end

  def page
    TCPSocket.new('127.0.0.1', PORT).tap do |socket|
      socket.write("GET /api/live HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: #{@wire.cookie}\r\n\r\n")
      head = socket.gets("\r\n\r\n")
      raise head unless head.include?('200')
    end
  end

  # Something happens at the bench: a drive is pulled, or plugged in again.
  # @return [Float] seconds until each page has heard of it
  def happens(pages)
    pages.each { |page| page.read_nonblock(1 << 20, exception: false) }
    @out = !@out
    at = now
    hand = Thread.new { @out ? @wire.call(:post, '/bench/ports/1/pull') : @wire.call(:post, '/bench/ports/1/plug', name: OTHER) }
    hear(pages)
    now - at
  ensure
    hand&.join
  end

  def hear(pages)
    waiting = pages.to_h { |page| [page, +''] }
    until waiting.empty?
      raise 'a page did not hear of it' unless (ready, = IO.select(waiting.keys, nil, nil, 10))

      ready.each do |page|
        waiting[page] << page.read_nonblock(1 << 20)
        waiting.delete(page) if waiting[page].include?('event: bench')
      end
    end
  end

  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
end
