# frozen_string_literal: true

require_relative '../../app/app_helper'

RSpec.describe 'What goes out' do
  before { sign_in }

  it 'says of a picture out of an image that nothing in it may be carried out' do
    folder = Config.path('tries', 'pictures').tap { |path| FileUtils.mkdir_p(path) }
    volume = File.join(folder, 'plan.raw')
    Dir.mktmpdir do |root|
      File.binwrite(File.join(root, 'plan.png'), Demo::OfficeFiles.picture)
      run('truncate', '-s', '40M', volume)
      run('mke2fs', '-q', '-F', '-d', root, volume)
    end
    LookThrough.new(Shelf.create!(name: 'Pictures', kind: 'folder', path: folder)).run
    get "/api/images/#{Image.find_by!(path: 'plan.raw').id}/parts/1/picture?path=/plan.png"
    expect(last_response.status).to eq(200)
    expect(last_response.headers['content-security-policy']).to eq("default-src 'none'; sandbox")
    get '/'
    expect(last_response.headers['content-security-policy']).to include("script-src 'self'")
  end

  it 'has no cell in a table that another program would take for a formula' do
    Technician.update_all(role: 'lead')
    evil = ['=HYPERLINK("http://x")', '+1', '-1+1', '@SUM(A1)']
    evil.each_with_index { |place, at| Computer.create!(name: "EVIL-#{at}", place:) }
    get '/api/computers.csv'
    table = CSV.parse(last_response.body, headers: true)
    expect(table.to_a.flatten.compact.grep(/\A[=+\-@\t\r]/)).to eq([])
    expect(table.find { |row| row['name'] == 'EVIL-0' }['place']).to eq("'#{evil.first}")
    # It comes back as it was.
    ComputerImport.new(last_response.body, Technician.first).apply
    expect(Computer.where('name LIKE ?', 'EVIL-%').order(:name).pluck(:place)).to eq(evil)
  end

  it 'shows the end of a serial on the Bench alone' do
    record = drive(Requests::REPLACEMENT)
    label = record.serial[-4..]
    owner = Computer.first.tap { |one| record.update!(computer: one) }
    ["/drives/#{record.id}", "/drives/#{record.id}/taking", "/computers/#{owner.id}/history"].each do |path|
      call(:get, path)
      expect(last_response.status).to eq(200), path
      expect(last_response.body).not_to include("-#{label}"), path
    end
  end
end

RSpec.describe 'Pages that listen' do
  let(:live) { Api::Live.new }

  # As the server hands its sockets over.
  def listen(id)
    ours, theirs = UNIXSocket.pair
    env = { 'rack.hijack' => -> { theirs }, Api::Signed::KEY => Struct.new(:id).new(id) }
    live.call(env)
    ours
  end

  def closed?(socket)
    socket.readpartial(65_536) while socket.wait_readable(0.05)
    false
  rescue EOFError
    true
  end

  it 'are so many of one sign-in at the most: the oldest goes' do
    stub_const('Api::Live::MOST', 3)
    pages = Array.new(5) { listen(7) }
    other = listen(8)
    expect(pages.map { |page| closed?(page) }).to eq([true, true, false, false, false])
    expect(closed?(other)).to be(false)
  end

  it 'are closed where they take only half a message' do
    page = listen(7)
    live.send(:send_all, "event: x\ndata: #{'y' * 8_000_000}\n\n")
    expect { loop { page.readpartial(1_000_000) } }.to raise_error(EOFError)
  end
end
