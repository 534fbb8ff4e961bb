# frozen_string_literal: true

module Api
  # Making a layout: wishes, plans that leave and come back in, presets, dry runs.
  module Layouts
    def self.registered(app)
      app.helpers do
        def layout_station = @layout_station ||= Stations::LayoutStation.new(docket)

        def layout_answer
          answer({ station: 'layout', view: layout_station.view, facts: layout_station.facts.map(&:to_h) })
        end
      end

      app.post '/dockets/:id/layout/plan' do
        layout_station.draft(body_params['wish'])
        layout_answer
      end

      app.delete '/dockets/:id/layout/plan' do
        layout_station.reset
        layout_answer
      end

      # A plan as JSON or a script for sfdisk, in "text".
      app.post '/dockets/:id/layout/read' do
        layout_station.draft(layout_station.read(body_params['text'].to_s))
        layout_answer
      end

      app.get '/dockets/:id/layout/plan.json' do
        attachment "#{docket.number}-layout.json"
        content_type :json
        plan = layout_station.plan
        JSON.pretty_generate(plan.to_h.merge(digest: plan.digest))
      end

      app.get '/dockets/:id/layout/plan.sfdisk' do
        attachment "#{docket.number}-layout.sfdisk"
        content_type 'text/plain'
        Evrel::Layout::Script.of(layout_station.plan.valid!)
      end

      app.post '/layout-presets' do
        given = body_params
        wish = Evrel::Layout::Wish.new(given['wish']).to_h
        preset = LayoutPreset.find_or_initialize_by(name: given['name'].to_s.strip)
        preset.update!(wish:, technician:)
        status 201
        answer(preset.view)
      end

      app.delete '/layout-presets/:preset' do
        LayoutPreset.find(params['preset']).destroy!
        answer({ done: true })
      end

      app.post '/dockets/:id/layout/try' do
        status 202
        answer(TryView.of(layout_station.try(technician)))
      end

      app.post '/layout-tries/:try/stop' do
        tried = LayoutTry.find(params['try'])
        tried.update!(stop_asked: true)
        answer(TryView.of(tried))
      end

      app.post '/layout-tries/:try/trial' do
        tried = LayoutTry.find(params['try'])
        raise Evrel::Refused, 'there is no disk of this dry run any more: try it again' unless tried.startable?

        status 202
        answer(TrialView.of(tried.trial_starts.under_way_or_new(technician:, docket: tried.docket)))
      end
    end
  end
end
