# frozen_string_literal: true

module Api
  # Signing in and out.
  module Session
    # @param app [Class] the Sinatra application
    def self.registered(app)
      app.helpers do
        # @return [Hash] who is signed in, and what a page needs to go on
        def session_view
          { technician: technician && PersonView.own(technician), first: technician.nil? && FirstLead.missing?,
            token: Rack::Protection::AuthenticityToken.token(session), bench: Config.bench }
        end

        def gate = Gate.new(peer: request.env['REMOTE_ADDR'], agent: request.user_agent)

        # A fresh session: nobody keeps one that was planted before the sign-in.
        def let_in((sign_in, secret))
          session.clear
          session['sign_in'] = secret
          request.env[Signed::KEY] = sign_in
          answer(session_view)
        end
      end
      in_and_out(app)
      first(app)
    end

    def self.in_and_out(app)
      app.get('/session') { answer(session_view) }
      app.post('/session') { let_in(gate.by_password(body_params['sign_in'].to_s, body_params['password'].to_s)) }
      app.post('/session/link') { let_in(gate.by_link(body_params['code'].to_s, body_params['password'].to_s)) }

      # Somebody is there: they move the pointer or press keys.
      app.post('/session/here') { answer(session_view) }

      app.delete '/session' do
        Gate.out(signed_in) if signed_in
        session.clear
        request.env[Signed::KEY] = nil
        answer(session_view)
      end
    end

    def self.first(app)
      app.post '/session/first' do
        given = body_params
        FirstLead.make(given)
        let_in(gate.by_password(given['sign_in'], given['password']))
      end
    end
    private_class_method :in_and_out, :first
  end
end
