# frozen_string_literal: true

module Api
  # Which computers could be restored today, and proving it.
  module Readiness
    def self.registered(app)
      looking(app)
      leaving(app)
      proving(app)
    end

    def self.looking(app)
      app.get('/readiness') { answer(ReadinessList.new(params).page) }
      app.get('/readiness/told') { answer(NightTold.of) }
    end

    def self.leaving(app)
      app.get '/readiness.csv' do
        content_type 'text/csv'
        attachment 'evrel-readiness.csv'
        ReadinessPaper.new(ReadinessList.new).csv
      end

      app.get '/readiness.pdf' do
        content_type 'application/pdf'
        attachment 'evrel-readiness.pdf'
        ReadinessPaper.new(ReadinessList.new).pdf
      end
    end

    def self.proving(app)
      # Reads its newest image through, and starts it in the emulator.
      app.post '/computers/:id/prove' do
        copy = ReadinessList.new.of(computer).verdict.copy
        raise Evrel::Refused.new("there is no image of #{computer.name} to prove", where: 'image') unless copy

        proof = Proof.of(computer, Image.find(copy.id), technician:)
        Event.add('proof_begun', "#{computer.name} is to be proved", technician:, data: { computer_id: computer.id })
        status 202
        answer(ReadinessView.proof(proof))
      end

      app.post '/proofs/:id/stop' do
        proof = Proof.find(params['id'])
        proof.with_lock { proof.stop unless proof.state == 'done' }
        answer(ReadinessView.proof(proof))
      end

      # Without "begins", it is off.
      app.put '/night' do
        NightWindow.choose(body_params['begins'], body_params['ends'], technician)
        answer(NightTold.of)
      end
    end
    private_class_method :looking, :leaving, :proving
  end
end
