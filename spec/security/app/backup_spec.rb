# frozen_string_literal: true

require_relative '../../app/app_helper'

RSpec.describe Backup do
  let(:file) { Config.path('tries', 'evrel.tar.zst').tap { |path| FileUtils.mkdir_p(File.dirname(path)) && FileUtils.rm_f(path) } }

  def rows
    tables = DemoState::TABLES - Backup::LEFT_OUT
    tables.to_h { |table| [table, ActiveRecord::Base.connection.select_rows("SELECT * FROM #{table} ORDER BY id")] }
  end

  # As a new machine has it: tables without rows, and no files.
  def lose_everything
    DemoState.without_keys { DemoState::TABLES.each { |table| DemoState.sql("TRUNCATE #{table}") } }
    (Backup::FOLDERS + Backup::FILES).each { |name| FileUtils.rm_rf(Config.path(name)) }
  end

  # What signs sessions is known to the application that runs here already: the examples after these sign in by it.
  around do |example|
    secret = Config.secret
    example.run
  ensure
    File.write(Config.path('session-secret'), secret)
  end

  before do
    Secrets.keep(Shelf.first, 'what opens it')
    FileUtils.mkdir_p([Config.path('journals'), Config.path('pictures')])
    File.write(Config.path('journals', 'write-1.jsonl'), "{}\n")
  end

  it 'brings everything back after everything was lost' do
    before = rows
    said = described_class.write(file)
    expect(said[:tables]).to include('technicians' => Technician.count, 'events' => Event.count)
    expect { described_class.restore(file) }.to raise_error(Evrel::Refused, /somebody works here/)
    lose_everything
    described_class.restore(file)
    expect(rows).to eq(before)
    expect(Secrets.of(Shelf.first)).to eq('what opens it')
    expect(File.stat(Config.path('secrets', "shelf-#{Shelf.first.id}")).mode & 0o077).to eq(0)
    expect(File.read(Config.path('journals', 'write-1.jsonl'))).to eq("{}\n")
    expect(EventChain.new(docket).check).to be_whole
    sign_in
    expect(call(:get, '/dockets')['dockets']).not_to be_empty
  end

  it 'is made at the machine itself, and says what it took' do
    admin = ->(*given) { Open3.capture2e('bundle', 'exec', RbConfig.ruby, 'app/admin.rb', *given, chdir: Config::ROOT) }
    expect(admin.call('backup', file)).to match([/\A\d+ rows of \d+ tables and \d+ files kept in .*zst\.\n\z/, be_success])
    said, how = admin.call('restore', file)
    expect([how.exitstatus, said]).to match([1, /somebody works here already/])
  end

  it 'changes nothing where the archive is not whole, or is of other tables' do
    described_class.write(file)
    lose_everything
    bytes = File.binread(file)
    at = bytes.bytesize / 3
    flipped = bytes.dup.tap { |one| one.setbyte(at, one.getbyte(at) ^ 0xFF) }
    [bytes.byteslice(0, bytes.bytesize / 2), flipped, 'x'].each do |broken|
      File.binwrite(file, broken)
      expect { described_class.restore(file) }.to raise_error(Evrel::Mismatch)
      expect(Technician.count).to eq(0)
    end
    File.binwrite(file, bytes)
    DemoState.sql("INSERT INTO schema_migrations (version) VALUES ('29990101000000')")
    expect { described_class.restore(file) }.to raise_error(Evrel::Refused, /of the tables of/)
    expect(Technician.count).to eq(0)
  ensure
    DemoState.sql("DELETE FROM schema_migrations WHERE version = '29990101000000'")
  end

  it 'overwrites no other file, and leaves none behind where there is no room' do
    File.write(file, 'of somebody')
    expect { described_class.write(file) }.to raise_error(Evrel::Refused, /there already/)
    expect(File.read(file)).to eq('of somebody')
  end
end
