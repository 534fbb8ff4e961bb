# frozen_string_literal: true

require 'socket'

RSpec.describe Evrel::Image::VmdkDescriptor do
  let(:good) do
    <<~TEXT
      # Disk DescriptorFile
      version=1
      CID=12345678
      parentCID=ffffffff
      createType="monolithicFlat"
      # Extent description
      RW 20480 FLAT "disk-flat.vmdk" 0
      # The Disk Data Base
      ddb.adapterType = "ide"
    TEXT
  end

  def check(text)
    File.binwrite(file('disk.vmdk'), text)
    open_disk(file('disk.vmdk'), logical_sector: 1) { |source| described_class.check(source, 'disk.vmdk') }
  end

  it 'takes what tools write' do
    expect { check(good) }.not_to raise_error
    %w[monolithicSparse monolithicFlat twoGbMaxExtentSparse streamOptimized].each do |kind|
      path = file("#{kind}.vmdk")
      run('qemu-img', 'create', '-q', '-f', 'vmdk', '-o', "subformat=#{kind}", path, '8M')
      open_disk(path, logical_sector: 1) { |source| expect { described_class.check(source, path) }.not_to raise_error }
    end
  end

  # Each is understood by who opens it, in one way or another.
  {
    'a leading space' => ' RW 20480 FLAT "/etc/shadow" 0', 'a sign before a number' => 'RW +20480 FLAT "/etc/shadow" 0',
    'a tab' => "RW\t20480\tFLAT\t\"/etc/shadow\"\t0", 'lower case' => 'rw 20480 flat "/etc/shadow" 0',
    'another folder' => 'RW 20480 FLAT "../other.raw" 0', 'an address' => 'RW 20480 FLAT "nbd:localhost:10809" 0',
    'no name at all' => 'RW 20480 FLAT "" 0', 'a quote within' => 'RW 20480 FLAT "a" "/etc/shadow" 0'
  }.each do |what, line|
    it "refuses a line with #{what}" do
      expect { check(good.sub(/^RW.*$/, line)) }.to raise_error(Evrel::Refused)
    end
  end

  it 'refuses one that builds on another, however that is written, and one that is too long to be read whole' do
    ['parentFileNameHint="/etc/shadow"', 'parentFileNameHint = "x"', 'PARENTFILENAMEHINT="x"', 'parentCID=00000001'].each do |line|
      expect { check("#{good}#{line}\n") }.to raise_error(Evrel::Unsupported), line
    end
    expect { check("#{good}#{"# nothing\n" * 8000}RW 1 FLAT \"/etc/shadow\" 0\n") }.to raise_error(Evrel::Refused, /more of its files/)
  end
end

RSpec.describe Evrel::Shelf::WebRequests do
  # A server that says whatever it likes, and how much of it was taken.
  def server(head, endless: false)
    listens = TCPServer.new('127.0.0.1', 0)
    sent = 0
    thread = Thread.new do
      loop do
        line = listens.accept
        line.gets("\r\n\r\n")
        line.write(head)
        begin
          (sent += line.write('x' * 65_536)) while endless && sent < 400 * Disks::MIB
        rescue SystemCallError
          nil
        end
        line.close
      end
    end
    requests = described_class.new(URI("http://127.0.0.1:#{listens.addr[1]}/"), nil, nil, Evrel::Shelf::Networks.new(['127.0.0.1']))
    yield requests, -> { sent }
  ensure
    thread&.kill
    listens&.close
  end

  before { stub_const('Evrel::Shelf::WebRequests::WAIT', 0.0) }

  it 'takes no more than was asked for of a server that sends a file whole, or sends without an end' do
    server("HTTP/1.1 200 OK\r\nContent-Length: #{400 * Disks::MIB}\r\n\r\n", endless: true) do |requests, sent|
      expect { requests.range('disk.qcow2', 0, 4096, nil) }.to raise_error(Evrel::Unsupported, /does not give ranges/)
      expect(sent.call).to be < 40 * Disks::MIB
    end
    server("HTTP/1.1 206 Partial\r\nContent-Range: bytes 0-4095/99999999\r\n\r\n", endless: true) do |requests, sent|
      expect(requests.range('disk.qcow2', 0, 4096, nil).bytesize).to eq(4096)
      expect(sent.call).to be < 40 * Disks::MIB
    end
    server("HTTP/1.1 200 OK\r\n\r\n", endless: true) do |requests, sent|
      expect { requests.page('', 10_000) }.to raise_error(Evrel::Unreadable, /more than was asked for/)
      expect(sent.call).to be < 40 * Disks::MIB
    end
  end

  it 'repeats nothing of what a server says' do
    server("HTTP/1.1 206 Partial\r\nContent-Range: secret words\r\nContent-Length: 1\r\n\r\nx") do |requests, _|
      expect { requests.range('disk.qcow2', 0, 4096, nil) }.to raise_error(Evrel::Unreadable) { |error| expect(error.message).not_to include('secret') }
    end
    server("secret words\r\n\r\n") do |requests, _|
      expect { requests.head('disk.qcow2') }.to raise_error(Evrel::Unreadable) { |error| expect(error.message).not_to include('secret') }
    end
  end
end
