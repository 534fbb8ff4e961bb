# frozen_string_literal: true

module Api
  # Taking images of drives.
  module Takings
    def self.registered(app)
      app.helpers do
        def taking = @taking ||= Taking.find(params['taking'])
        def taking_keeper = TakingKeeper.new(technician)
      end

      app.get('/drives/:id/taking') { answer(TakingSheet.new(drive).to_h) }

      app.post '/drives/:id/measure' do
        status 202
        answer(TaskView.of(taking_keeper.measure(drive)))
      end

      app.post '/drives/:id/takings' do
        status 202
        answer(TakingView.of(taking_keeper.begin(drive, body_params)))
      end

      app.get('/takings') { answer(TakingList.new.to_a) }
      app.get('/takings/:taking') { answer(TakingView.of(taking)) }

      app.post '/takings/:taking/go-on' do
        taking_keeper.go_on(taking, body_params['passphrase'])
        answer(TakingView.of(taking.reload))
      end

      %w[pause stop enough].each do |act|
        app.post "/takings/:taking/#{act}" do
          taking_keeper.public_send(act, taking)
          answer(TakingView.of(taking.reload))
        end
      end
    end
  end
end
