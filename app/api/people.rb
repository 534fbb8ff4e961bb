# frozen_string_literal: true

module Api
  # People: leads keep them; everybody has a password, wishes and sign-ins of their own.
  module People
    def self.registered(app)
      app.helpers do
        def person = @person ||= Technician.find(params['id'])
        def people = PeopleKeeper.new(technician)
        def with_link(person, code) = { person: PersonView.of(person.reload), link: "/link##{code}" }
      end
      kept_by_leads(app)
      own(app)
    end

    def self.kept_by_leads(app)
      app.get('/people') { answer(Technician.order(:disabled_at, :name).includes(:sign_ins).map { |one| PersonView.of(one) }) }

      app.post '/people' do
        made, code = people.add(body_params)
        status 201
        answer(with_link(made, code))
      end

      app.patch('/people/:id') { answer(PersonView.of(people.change(person, body_params))) }
      app.post('/people/:id/reset') { answer(with_link(person, people.reset(person))) }

      app.delete '/people/:id/sign-ins' do
        people.sign_out(person.sign_ins)
        answer(PersonView.of(person.reload))
      end
    end

    def self.own(app)
      app.put '/me/password' do
        people.change_password(technician, body_params['old'].to_s, body_params['new'].to_s, keep: signed_in)
        answer(session_view)
      end

      app.patch '/me/preferences' do
        people.wish(technician, body_params)
        answer(session_view)
      end

      app.get('/me/sign-ins') { answer(PersonView.sign_ins(technician, own: signed_in)) }

      app.delete '/me/sign-ins/:id' do
        people.sign_out(technician.sign_ins.where(id: params['id']))
        answer(PersonView.sign_ins(technician, own: signed_in))
      end
    end
    private_class_method :kept_by_leads, :own
  end
end
