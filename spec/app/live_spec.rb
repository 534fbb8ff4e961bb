# frozen_string_literal: true

require_relative 'app_helper'
require 'net/http'
require 'puma'
require 'puma/server'

RSpec.describe 'The live stream' do
  before do
    log = Puma::LogWriter.null
    @server = Puma::Server.new(Api::Stack.build, nil, { min_threads: 2, max_threads: 4, log_writer: log })
    @port = @server.add_tcp_listener('127.0.0.1', 0).addr[1]
    @server.run
  end

  after { @server.stop(true) }

  # The cookie of a signed-in technician, through the server itself.
  def cookie
    sign_in
    last_response.headers['set-cookie'].to_s[/evrel=[^;]+/]
  end

  # @yieldparam socket [TCPSocket] after the head of the answer
  def stream(cookie)
    socket = TCPSocket.new('127.0.0.1', @port)
    socket.write("GET /api/live HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: #{cookie}\r\n\r\n")
    head = socket.gets("\r\n\r\n")
    yield socket, head
  ensure
    socket&.close
  end

  # @return [Hash] data of the next message of that name
  def message(socket, name)
    Timeout.timeout(20) do
      loop { return JSON.parse(socket.gets.delete_prefix('data: ')) if socket.gets == "event: #{name}\n" }
    end
  end

  it 'tells of events, writes and the bench' do
    stream(cookie) do |socket, head|
      expect(head).to include('200 OK', 'text/event-stream')
      Event.add('test', 'something happened', docket:)
      expect(message(socket, 'event')).to include('text' => 'something happened', 'docket_id' => docket.id)

      write = Write.create!(docket:, technician: Technician.first, source: image, drive: Drive.first, state: 'running', progress: {},
                            speeds: [])
      expect(message(socket, 'write')).to include('id' => write.id, 'state' => 'running')
      write.update!(progress: { written: 5 })
      expect(message(socket, 'write')['progress']).to eq('written' => 5)

      watch = BenchWatch.run
      bench.pull('4')
      expect(message(socket, 'bench')).to include('revision')
    ensure
      watch&.kill&.join
    end
  end

  it 'reaches every open page, and outlives one that goes away' do
    kept = cookie
    stream(kept) do |one, _|
      stream(kept) { |_, head| expect(head).to include('200 OK') }
      Event.add('test', 'after one has gone')
      expect(message(one, 'event')).to include('text' => 'after one has gone')
      Event.add('test', 'and again')
      expect(message(one, 'event')).to include('text' => 'and again')
    end
  end

  it 'is closed to whoever is not signed in' do
    stream('evrel=made-up') { |_, head| expect(head).to include('401') }
  end
end
