# frozen_string_literal: true

RSpec.describe Evrel::Shelf::Networks do
  def told(*addresses)
    found = addresses.map { |list| Array(list).map { |one| Addrinfo.tcp(one, 80) } }
    allow(Addrinfo).to receive(:getaddrinfo).and_call_original
    allow(Addrinfo).to receive(:getaddrinfo).with('quay.example', any_args).and_return(*found)
  end

  inward = %w[127.0.0.1 127.9.9.9 0.0.0.0 10.1.2.3 172.16.0.9 172.31.255.1 192.168.4.7 169.254.169.254 100.64.0.1 224.0.0.1 255.255.255.255
              2130706433 0x7f000001 0177.0.0.1 127.1 [::1] [::] [fe80::1] [fc00::1] [fd12:3456::1]
              [::ffff:127.0.0.1] [::ffff:10.0.0.1] [ff02::1] localhost]
  inward.each do |host|
    it "does not lead to #{host}, unless its network was allowed" do
      expect { described_class.new.address(host) }.to raise_error(Evrel::Refused, /leads to this machine or into a network of its own/)
      expect { Evrel::Shelf::Web.new("http://#{host}/").siblings('x') }.to raise_error(Evrel::Refused)
    end
  end

  it 'takes what was allowed, and no other network' do
    near = described_class.new(%w[192.168.4.0/24 fd12:3456::/32])
    expect(near.address('192.168.4.7')).to eq('192.168.4.7')
    expect(near.address('[fd12:3456::1]')).to eq('fd12:3456::1')
    expect { near.address('192.168.5.7') }.to raise_error(Evrel::Refused)
    expect { described_class.new(['the quay']) }.to raise_error(Evrel::Refused, /no range of addresses/)
  end

  it 'takes the address of a name that leads outward, wherever else it leads' do
    told(%w[127.0.0.1 203.0.113.9])
    expect(described_class.new.address('quay.example')).to eq('203.0.113.9')
    told(%w[127.0.0.1 10.0.0.1])
    expect { described_class.new.address('quay.example') }.to raise_error(Evrel::Refused)
  end

  it 'connects to what it looked up, whatever the name leads to a moment later' do
    FileUtils.mkdir_p(file('web'))
    File.write(file('web/card'), 'from the server that was looked up')
    port = URI(served(file('web'))).port
    told('127.0.0.1', '10.99.99.99')
    web = Evrel::Shelf::Web.new("http://quay.example:#{port}/", networks: ['127.0.0.1'])
    expect(web.read('card', 100)).to eq('from the server that was looked up')
    expect(Addrinfo).to have_received(:getaddrinfo).with('quay.example', any_args).once
  end
end
