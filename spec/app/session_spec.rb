# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'Signing in' do
  it 'opens a session with a cookie that scripts and other sites cannot use' do
    expect(sign_in['technician']).to include('name' => 'Ina Hauge', 'initials' => 'IH')
    cookie = last_response.headers['set-cookie'].to_s
    expect(cookie).to match(/HttpOnly/i).and match(/SameSite=Strict/i)
    expect(call(:get, '/dockets')['dockets'].size).to eq(2)
  end

  it 'keeps everything else closed' do
    %w[/dockets /dockets/1 /images /bench /computers /find?q=a /trials/1/picture].each do |path|
      call(:get, path)
      expect(status).to eq(401), path
    end
    get '/api/live'
    expect(last_response.status).to eq(401)
  end

  it 'says no more than that the two do not go together' do
    answers = [sign_in('ina', password: 'wrong'), sign_in('nobody', password: 'wrong')].map { |answer| answer['message'] }
    expect(answers.uniq).to eq(['that sign-in and password do not go together'])
    expect(status).to eq(401)
  end

  it 'closes the session' do
    sign_in
    call(:delete, '/session')
    call(:get, '/dockets')
    expect(status).to eq(401)
  end

  it 'slows down whoever guesses' do
    # Tries are counted by the minute: these may fall into two.
    11.times.find do
      sign_in('ina', password: 'wrong')
      status == 429
    end
    expect(status).to eq(429)
    expect(last_response.headers['retry-after']).to eq('60')
  end

  it 'takes no change without the token' do
    sign_in
    @token = 'made-up'
    header 'X-CSRF-Token', 'made-up'
    header 'Content-Type', 'application/json'
    post '/api/dockets', JSON.generate(computer_id: Computer.first.id, cause: 'slow')
    expect(last_response.status).to eq(403)
    expect(Docket.count).to eq(2)
  end

  it 'answers only under its own names' do
    header 'Host', 'elsewhere.invalid'
    get '/api/session'
    expect(last_response.status).to eq(403)
  end

  it 'sends a strict policy with every page and lets nobody put it into a frame' do
    header 'Host', '127.0.0.1'
    get '/'
    policy = last_response.headers['content-security-policy']
    expect(policy).to include("default-src 'none'", "script-src 'self'", "frame-ancestors 'none'")
    expect(policy).not_to include('unsafe')
    expect(last_response.body).to include(policy[/nonce-([^']+)/, 1])
  end

  it 'answers bad input with an error, not a fault' do
    sign_in
    header 'X-CSRF-Token', @token
    ['{', '[]', '"text"', "\xFF"].each do |body|
      post '/api/dockets', body, 'CONTENT_TYPE' => 'application/json'
      expect(last_response.status).to eq(400), body
    end
    call(:get, '/dockets/999')
    expect(status).to eq(404)
    call(:post, '/dockets', computer_id: Computer.first.id, cause: 'bored')
    expect([status, JSON.parse(last_response.body)['message']]).to eq([422, 'Cause is none of the known ones'])
  end

  it 'logs a refused call in one line, without what was sent, and a fault without what is known' do
    sign_in
    log = StringIO.new
    env 'rack.errors', log
    call(:post, "/dockets/#{docket.id}/stations/target/seal", drive_id: 1, label: 'S3CR')
    expect(log.string).to match(%r{\A\S+ POST /dockets/#{docket.id}/stations/\{station\}/seal 409\n\z})
    log.reopen(+'')
    allow(DocketView).to receive(:of) { raise "cannot use \"S3CR\" of #{Technician.first.inspect} in #{bench.drives.first.inspect}" }
    get "/api/dockets/#{docket.id}?q=S3CR"
    expect(log.string).to match(%r{\A\S+ GET /dockets/#{docket.id} 500 RuntimeError cannot use … of … app/api/dockets.rb:\d+.*\n\z})
    expect(Technician.first.inspect).not_to include(Technician.first.password_digest)
    expect(Drive.first.inspect + bench.drives.inspect).not_to match(/#{Drive.pluck(:serial).compact.join('|')}/)
  end
end
