# frozen_string_literal: true

module Api
  # Writes: begun, paused, stopped, decided.
  module Writes
    def self.registered(app)
      app.get('/writes') { answer(OpenWrites.list) }

      app.post '/dockets/:id/write' do
        write = WriteKeeper.new(docket).start(technician)
        status 202
        answer(WriteView.of(write))
      end

      app.post '/dockets/:id/write/stop' do
        WriteKeeper.new(docket).stop(technician)
        status 202
        answer(WriteView.of(docket.write))
      end

      app.post '/dockets/:id/write/pause' do
        WriteKeeper.new(docket).pause(technician)
        status 202
        answer(WriteView.of(docket.write))
      end

      # "choice" is the id of one that the trouble offers.
      app.post '/dockets/:id/write/decide' do
        write = WriteKeeper.new(docket).decide(technician, body_params['choice'].to_s)
        status 202
        answer(WriteView.of(write))
      end

      # "unused" and "skip_identical", before it is begun.
      app.patch '/dockets/:id/write/options' do
        WriteKeeper.new(docket).choose(body_params)
        answer(Stations::WriteStation.new(docket).view)
      end
    end
  end
end
