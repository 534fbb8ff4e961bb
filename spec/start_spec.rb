# frozen_string_literal: true

require 'English'
require 'etc'
require 'capybara/rspec'
require 'net/http'
require 'open3'
require 'selenium-webdriver'
require 'timeout'

# The command itself, with a data folder and ports of its own.
RSpec.describe 'bin/start' do
  # The demo is built by whichever example comes first.
  before(:context) { @house = Dir.mktmpdir('evrel-start').tap { |path| File.chmod(0o711, path) } }
  after(:context) { FileUtils.rm_rf(@house) }

  let(:env) do
    { 'EVREL_VAR' => @house, 'EVREL_PORT' => '8742', 'EVREL_DB_PORT' => '8764', 'EVREL_FILES_PORT' => '8745',
      'EVREL_DB_NAME' => nil, 'EVREL_DEMO' => 'small' }
  end
  let(:command) { File.expand_path('../bin/start', __dir__) }

  # @return [Array<String>] what it printed until it was up, or ended
  def start(*arguments)
    @evrel = IO.popen([env, command, *arguments], err: %i[child out], pgroup: true)
    lines = []
    Timeout.timeout(300) do
      while (line = @evrel.gets)
        lines << line
        break if line.include?('Ctrl C')
      end
    end
    lines
  end

  def stop(signal = :TERM)
    Process.kill(signal, @evrel.pid)
    Process.wait(@evrel.pid)
  end

  # Whatever an example leaves running would answer the next one.
  after do
    stop(:KILL)
  rescue Errno::ESRCH, Errno::ECHILD
    nil
  ensure
    system('pkill', '-KILL', '-f', @house)
    eventually { [8742, 8745, 8764].none? { |port| answers?(port) } }
  end

  def answers?(port)
    TCPSocket.new('127.0.0.1', port).close
    true
  rescue Errno::ECONNREFUSED
    false
  end

  def password = File.read(File.join(@house, 'demo-password'))

  # @return [Hash{String=>Integer}] what runs below it, by its command → user
  def users(except: /\A\z/)
    pids = File.read("/proc/#{@evrel.pid}/task/#{@evrel.pid}/children").split
    pids.to_h { |pid| [File.read("/proc/#{pid}/cmdline").tr("\0", ' '), File.stat("/proc/#{pid}").uid] }
        .reject { |command, _| command.match?(except) }
  end

  # Pages and workers may open no drive for writing; the warden may.
  def without_rights!
    nobody = Etc.getpwnam('evrel').uid
    # One that has just been begun gives up its rights as its first step.
    eventually { users(except: /mariadbd|warden/).then { |others| others.size > 5 && others.values.uniq == [nobody] } }
    expect(users.find { |command, _| command.include?('warden') }.last).to eq(0)
    kept = %w[bench/drives/*/disk.raw database-owner-password warden/opened.jsonl].flat_map { |name| Dir[File.join(@house, name)] }
    expect(kept.size).to be > 3
    expect(as_user(nobody) { kept.select { |path| File.writable?(path) } }).to eq('[]')
  end

  def page = Net::HTTP.get_response(URI('http://127.0.0.1:8742/')).code

  it 'says in one sentence which port is taken and what to do' do
    taken = TCPServer.new('127.0.0.1', 8742)
    expect(start.join).to match(/Port 8742 is taken.*set EVREL_PORT/)
    Process.wait(@evrel.pid)
    expect($CHILD_STATUS.exitstatus).to eq(1)
    taken.close

    taken = TCPServer.new('127.0.0.1', 8764)
    expect(start.join).to match(/Port 8764 is taken.*set EVREL_DB_PORT/)
  ensure
    taken&.close
  end

  it 'explains its options' do
    expect(start('--quick').join).to eq("Usage: bin/start [--fresh | --empty]\n")
  end

  it 'builds the demo once, is up again with its data, and stops all that it started' do
    expect(start.join).to match(%r{http://127.0.0.1:8742/.*Sign-in +ina.*Password +#{password}\n}m)
    expect(page).to eq('200')
    without_rights! if Process.uid.zero?
    marker = File.join(@house, 'bench', 'marker').tap { |path| File.write(path, 'kept') }
    stop
    expect { page }.to raise_error(Errno::ECONNREFUSED)
    expect(`pgrep -f #{@house}`).to be_empty

    again = start.join
    expect(again).to match(/Front end: build +there already/)
    expect(File.read(marker)).to eq('kept')

    kept = Dir.children(@house).map { |name| File.join(@house, name) }.reject { |path| path.end_with?('database') }
    # In the group of Evrel's own user there is nobody else.
    read = kept.select { |path| File.stat(path).then { |stat| stat.mode.anybits?(stat.gid.zero? ? 0o066 : 0o006) } }
    expect(read).to eq([])

    # By whatever ports, nobody else begins on the same folder.
    second, status = Open3.capture2e(env.merge('EVREL_PORT' => '8746', 'EVREL_DB_PORT' => '8766'), command)
    expect([status.exitstatus, second]).to match([1, /Another Evrel runs on #{@house} already/])

    # Killed without a chance to stop anything, it can be started again all the same.
    stop(:KILL)
    start
    expect(page).to eq('200')
    Process.kill(:KILL, Integer(File.read(File.join(@house, 'database', 'server.pid'))))
    rest = Timeout.timeout(20) { @evrel.read }
    expect(rest).to match(%r{The database has ended; see .*run bin/start again})
  end

  it 'is there without the demo, and begins with a code' do
    # A folder that nobody else gets at: everything runs as one user then.
    Dir.mkdir(File.join(@house, 'closed'), 0o700)
    env['EVREL_VAR'] = File.join(@house, 'closed', 'empty')
    said = start('--empty').join
    expect(said).to include('all runs as root') if Process.uid.zero?
    expect(said[/Code +(\S+)/, 1]).to eq(File.read(File.join(env['EVREL_VAR'], 'first-code'))), said
    said = Net::HTTP.get(URI('http://127.0.0.1:8742/api/session'))
    expect(JSON.parse(said)).to include('first' => true, 'technician' => nil)
    expect(Dir.children(env['EVREL_VAR'])).not_to include('bench', 'demo-password')
    stop
    # What somebody works with is no demo.
    said, status = Open3.capture2e(env, command, '--fresh')
    expect([status.exitstatus, said]).to match([1, /holds no demo but what somebody works with/])
    expect(File.directory?(File.join(env['EVREL_VAR'], 'database'))).to be(true)
  end

  it 'goes on with a write by itself after all of it was killed in the middle, seen by a page that stayed open' do
    start
    evrel = ByWire.new(8742)
    evrel.sign_in('ina', password)
    docket = evrel.call(:get, '/dockets')['dockets'].find { |one| one['computer'] == 'TKT-03' }['id']
    image = evrel.call(:get, "/dockets/#{docket}/stations/image")['view']['images'].first['id']
    evrel.seal(docket, image:, port: '3', label: '7Q4F')
    pages = look_at("/dockets/#{docket}/write")
    evrel.call(:post, "/dockets/#{docket}/write")
    expect(pages).to have_css('.orders li.now', text: 'Write System', wait: 120) # workers begin after the pages
    kill_all
    expect(pages).to have_text('No line to the server')

    start
    expect(pages).to have_no_text('No line to the server', wait: 60)
    expect(pages).to have_text('read back from the disk itself', wait: 200)
    path = Dir[File.join(@house, 'bench', 'drives', 'TF48-2209-7Q4F', 'disk.raw')].first
    expect(run('sgdisk', '-v', path)).to include('No problems found')
    opened = File.readlines(File.join(@house, 'warden', 'opened.jsonl')).map { |line| JSON.parse(line) }
    expect(opened).to match([include('port' => '3', 'docket' => /\AD-/, 'opened' => true)] * 2)
  ensure
    pages&.quit
    stop
  end

  # @return [Capybara::Session] signed in
  def look_at(path)
    Capybara.register_driver(:alone) { Chromium.driver(nil) }
    Capybara::Session.new(:alone).tap do |pages|
      pages.visit("http://127.0.0.1:8742#{path}")
      pages.fill_in 'Sign-in', with: 'ina'
      pages.fill_in 'Password', with: password
      pages.click_button 'Sign in'
    end
  end

  # Web server, workers and database, none of which can tidy up.
  def kill_all
    database = Integer(File.read(File.join(@house, 'database', 'server.pid')))
    stop(:KILL)
    Process.kill(:KILL, database)
    eventually { !system('pgrep', '-f', @house, out: File::NULL) }
  end
end
