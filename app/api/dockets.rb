# frozen_string_literal: true

module Api
  # Dockets and their stations.
  module Dockets
    def self.registered(app)
      app.helpers do
        def docket = @docket ||= Docket.find(params['id'])
        def station = @station ||= Stations::Station.for(params['station'], docket)
      end

      app.get('/dockets') { answer(DocketList.new(params).page) }

      app.post '/dockets' do
        given = body_params
        computer = Computer.find(given['computer_id'])
        made = Docket.create!(computer:, cause: given['cause'].to_s, note: given['note'], opened_by: technician)
        Event.add('opened', "Docket opened for #{computer.name}", docket: made, technician:)
        status 201
        answer(DocketView.of(made))
      end

      app.get('/dockets/:id') { answer(DocketView.of(docket)) }

      # Said by an open page by itself: see Signed.
      app.put '/dockets/:id/people' do
        found = Presence.note(docket, technician, **body_params.slice('page', 'station', 'choice').symbolize_keys)
        answer(found.map(&:view))
      end

      app.get('/dockets/:id/events') do
        answer(docket.events.includes(:technician).order(id: :desc).limit(200).map do |event|
          { id: event.id, kind: event.kind, text: event.text, by: event.technician&.short_name, at: event.created_at.iso8601 }
        end)
      end

      app.get '/dockets/:id/stations/:station' do
        answer({ station: station.name, view: station.view, facts: station.facts.map(&:to_h) })
      end

      app.post '/dockets/:id/stations/:station/seal' do
        station.seal(technician, body_params)
        answer(DocketView.of(docket.reload))
      end

      app.delete '/dockets/:id/stations/:station/seal' do
        station.meanwhile!(body_params)
        raise Evrel::Refused, 'this station has no seal' unless docket.sealed?(station.name)

        Unseal.from(docket, station.name, because: body_params['reason'].presence || 'opened again', by: technician)
        answer(DocketView.of(docket.reload))
      end
    end
  end
end
