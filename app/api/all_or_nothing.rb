# frozen_string_literal: true

require 'openssl'
require 'stringio'

module Api
  # Carries out what changes something in one transaction: all of it or, where
  # the answer is a refusal, nothing. What belongs to one docket, drive, shelf or
  # image waits until nobody else changes that: it takes its row first. Two that
  # wait for each other are tried again. A call that comes twice under one key
  # (Idempotency-Key, as in the draft of the IETF) is carried out once.
  class AllOrNothing
    READING = %w[GET HEAD OPTIONS].freeze
    TRIES = 6
    KEY = /\A[\w-]{8,80}\z/
    # The first part of a path → the row that is taken.
    ROWS = { 'dockets' => ->(id) { Docket.lock.find_by(id:) }, 'drives' => ->(id) { Drive.lock.find_by(id:) },
             'shelves' => ->(id) { Shelf.lock.find_by(id:) }, 'images' => ->(id) { Image.lock.find_by(id:) },
             'runs' => ->(id) { Run.lock.find_by(id:) },
             'layout-tries' => ->(id) { LayoutTry.find_by(id:)&.then { |tried| Docket.lock.find(tried.docket_id) } } }.freeze
    BUSY = [ActiveRecord::Deadlocked, ActiveRecord::LockWaitTimeout, ActiveRecord::SerializationFailure].freeze

    def initialize(app)
      @app = app
    end

    def call(env)
      return @app.call(env) if READING.include?(env['REQUEST_METHOD'])

      body = env['rack.input']&.read.to_s
      (1..TRIES).each do |try|
        answer = attempt(env, body)
        return answer if answer

        sleep(rand * 0.05 * try)
      end
      refused('Busy', 'others change the same thing all the time: try again')
    ensure
      ActiveRecord::Base.connection_handler.clear_active_connections!
    end

    private

    # @return [Array, nil] nil where it has to be tried again
    def attempt(env, body)
      answer = nil
      ActiveRecord::Base.transaction(isolation: :read_committed) do
        take(env['PATH_INFO'])
        answer = once(env, body)
        raise ActiveRecord::Rollback unless kept?(answer, env)
      end
      busy?(env) ? nil : answer
    rescue *BUSY, ActiveRecord::RecordNotUnique
      nil
    rescue Evrel::Refused => e
      refused('Refused', e.message, e.where, e.hint)
    end

    def take(path)
      kind, id = path.split('/').reject(&:empty?).first(2)
      ROWS[kind]&.call(id) if id&.match?(/\A\d{1,18}\z/)
    end

    # A refusal is taken back too, but for what must be counted: see LabelProof.
    def kept?(answer, env) = answer.first < 400 || (env['sinatra.error'].try(:counts?) || false)

    def busy?(env) = BUSY.any? { |kind| env['sinatra.error'].is_a?(kind) }

    def once(env, body)
      key = env['HTTP_IDEMPOTENCY_KEY']
      who = env[Signed::KEY]&.technician_id
      return carried_out(env, body) unless key && who
      return refused('Invalid', 'an Idempotency-Key has 8 to 80 letters, digits or dashes', code: 400) unless key.match?(KEY)

      kept = Answer.for(who, key, digest(env, body))
      return [kept.status, { 'content-type' => 'application/json', 'cache-control' => 'no-store' }, [kept.body]] if kept.given?

      carried_out(env, body).tap { |status, _, said| kept.update!(status:, body: said.to_a.join) if status < 400 }
    end

    def carried_out(env, body) = @app.call(env.merge!('rack.input' => StringIO.new(body), 'sinatra.error' => nil))

    # Keyed: a body may hold a passphrase, and whoever has the database alone shall not be able to try some.
    def digest(env, body)
      OpenSSL::HMAC.hexdigest('SHA256', Config.secret, [env['REQUEST_METHOD'], env['PATH_INFO'], body].join("\n"))
    end

    def refused(error, message, where = nil, hint = nil, code: 409)
      [code, { 'content-type' => 'application/json' }, [JSON.generate({ error:, message:, where:, hint: }.compact)]]
    end
  end
end
