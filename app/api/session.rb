# frozen_string_literal: true

module Api
  # Signing in and out.
  module Session
    # @param app [Class] the Sinatra application
    def self.registered(app)
      app.helpers do
        def session_view
          { technician: technician && { id: technician.id, name: technician.name, short_name: technician.short_name,
                                        initials: technician.initials },
            token: Rack::Protection::AuthenticityToken.token(session), bench: Config.bench }
        end
      end

      app.get('/session') { answer(session_view) }

      app.post '/session' do
        given = body_params
        found = Technician.find_by(sign_in: given['sign_in'].to_s)
        halt_with(401, 'SignIn', 'that sign-in and password do not go together') unless found&.authenticate(given['password'].to_s)
        # A fresh session: nobody keeps one that was planted before the sign-in.
        session.clear
        session[:technician_id] = found.id
        @technician = found
        answer(session_view)
      end

      app.delete '/session' do
        session.clear
        @technician = nil
        answer(session_view)
      end
    end
  end
end
