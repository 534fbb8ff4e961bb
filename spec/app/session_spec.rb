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

  it 'slows down whoever guesses, whatever the address looks like' do
    header 'X-Forwarded-For', '203.0.113.9'
    5.times do |number|
      header 'X-Forwarded-For', "203.0.113.#{number}"
      sign_in('ina', password: 'wrong')
      expect(status).to eq(401)
    end
    sign_in('ina')
    expect(status).to eq(429)
    expect(last_response.headers['retry-after']).to eq('60')
    %w[/api//session /api/session/ /api/./session].each do |path|
      header 'Content-Type', 'application/json'
      post path, JSON.generate(sign_in: 'ina', password: Demo.password)
      expect(last_response.status).to be >= 400, path
    end
    SignInFailure.update_all(created_at: 61.seconds.ago)
    sign_in('ina')
    expect(status).to eq(200)
  end

  it 'slows down whoever tries many names from one place' do
    20.times { |number| sign_in("name-#{number}", password: 'wrong') }
    sign_in('kaja')
    expect(status).to eq(429)
    expect(SignInFailure.pluck(:account).join).not_to include('name')
  end

  it 'takes as long for a name that nobody has' do
    held = []
    allow(BCrypt::Password).to(receive(:new).and_wrap_original { |real, digest| real.call(digest.tap { held << digest }) })
    sign_in('nobody', password: 'wrong')
    expect(held).to eq([Gate::NOBODY])
    expect(BCrypt::Password.new(Gate::NOBODY).cost).to eq(BCrypt::Password.new(Technician.first.password_digest).cost)
  end

  it 'ends after half an hour in which nobody did anything, but for a trial start of their own' do
    sign_in
    SignIn.update_all(active_at: 29.minutes.ago)
    call(:get, '/dockets') # a page may ask by itself
    call(:put, "/dockets/#{docket.id}/people", page: 'a' * 16, station: 'image') # and say that it is open
    expect([status, SignIn.first.active_at]).to match([200, be < 28.minutes.ago])
    call(:post, '/session/here')
    expect(SignIn.first.active_at).to be > 10.seconds.ago

    SignIn.update_all(active_at: 31.minutes.ago)
    trial = TrialStart.create!(docket:, technician: Technician.find_by!(sign_in: 'ina'), state: 'running')
    call(:get, '/dockets')
    expect(status).to eq(200)
    trial.update!(state: 'done')
    call(:get, '/dockets')
    expect(status).to eq(401)
  end

  it 'ends after twelve hours, whatever was done' do
    sign_in
    SignIn.update_all(created_at: 12.hours.ago)
    call(:get, '/dockets')
    expect(status).to eq(401)
  end

  it 'sends its cookie by TLS only to whoever came by it' do
    sign_in
    expect(last_response.headers['set-cookie'].to_s).not_to match(/secure/i)
    env 'HTTPS', 'on'
    sign_in
    expect(last_response.headers['set-cookie'].to_s).to match(/; secure/i)
  end

  it 'tells of sign-ins and of failures' do
    sign_in('ina', password: 'wrong')
    sign_in('Demo.password typed here', password: 'wrong')
    sign_in
    call(:delete, '/session')
    expect(Event.where("kind LIKE 'sign%'").order(:id).last(4).map { |one| [one.kind, one.text] })
      .to eq([['sign_in_failed', 'A sign-in failed for Ina Hauge'], ['sign_in_failed', 'A sign-in failed'],
              ['signed_in', 'Ina Hauge signed in'], ['signed_out', 'Ina Hauge signed out']])
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
