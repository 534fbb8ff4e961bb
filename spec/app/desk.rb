# frozen_string_literal: true

# Somebody with a session of their own, in whatever thread.
class Desk
  def initialize(sign_in)
    @session = Rack::Test::Session.new(Requests::STACK)
    call(:get, '/session')
    call(:post, '/session', sign_in:, password: Demo.password)
  end

  # @return [(Integer, Hash)] status and answer
  def call(method, path, headers: {}, **body)
    env = { 'CONTENT_TYPE' => 'application/json', 'HTTP_X_CSRF_TOKEN' => @token.to_s, 'HTTP_HOST' => '127.0.0.1',
            method: method.to_s.upcase, **headers }
    env[:input] = JSON.generate(body) unless method == :get
    @session.request("/api#{path}", env)
    said = @session.last_response
    answer = said.headers['content-type'].to_s.start_with?('application/json') ? JSON.parse(said.body) : said.body
    @token = answer['token'] if answer.is_a?(Hash) && answer.key?('token')
    [said.status, answer]
  end
end
