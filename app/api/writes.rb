# frozen_string_literal: true

module Api
  # Writes: begun, paused, stopped, decided.
  module Writes
    def self.registered(app)
      app.get('/writes') { answer(OpenWrites.list) }

      app.post '/dockets/:id/write' do
        write = Stations::WriteStation.new(docket).start(technician)
        status 202
        answer(WriteView.of(write))
      end

      app.post '/dockets/:id/write/stop' do
        Stations::WriteStation.new(docket).stop(technician)
        status 202
        answer(WriteView.of(docket.write))
      end

      app.post '/dockets/:id/write/pause' do
        Stations::WriteStation.new(docket).pause(technician)
        status 202
        answer(WriteView.of(docket.write))
      end

      # "choice" is the id of one that the trouble offers.
      app.post '/dockets/:id/write/decide' do
        write = Stations::WriteStation.new(docket).decide(technician, body_params['choice'].to_s)
        status 202
        answer(WriteView.of(write))
      end

      # "unused" and "skip_identical", before it is begun.
      app.patch '/dockets/:id/write/options' do
        Stations::WriteStation.new(docket).choose(body_params)
        answer(Stations::WriteStation.new(docket).view)
      end
    end
  end
end
