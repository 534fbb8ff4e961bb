# frozen_string_literal: true

module Api
  # One image onto many drives.
  module Runs
    def self.registered(app)
      app.helpers do
        def run = @run ||= Run.find(params['run'])
        def run_keeper = RunKeeper.new(run, technician)
        def run_answer = answer(RunView.new(Run.find(params['run'])).to_h)
      end

      app.get('/runs') { answer(RunList.new.to_a) }
      app.get('/images/:id/run') { answer(RunList.for(Image.there.find(params['id']))) }

      app.post '/runs' do
        made = RunKeeper.begin(technician, body_params)
        status 201
        answer(RunView.new(made).to_h)
      end

      app.get('/runs/:run') { run_answer }

      # "label" (the last four characters of any drive), or "blank" (ids of drives on which nothing lies); "reason" where
      # something about them needs one.
      app.post '/runs/:run/drives' do
        given = body_params
        reason = given['reason'].presence
        given['blank'] ? run_keeper.prove_blank(given['blank'], reason) : run_keeper.prove(given['label'].to_s, reason)
        run_answer
      end

      # "way": "unplug" or "next"; "reason" where something about the drives needs one.
      app.post '/runs/:run/watch' do
        RunWatch.new(run).begin(technician, body_params['way'], body_params['reason'])
        run_answer
      end

      app.delete '/runs/:run/watch' do
        RunWatch.new(run).end(technician)
        run_answer
      end

      app.post '/runs/:run/start' do
        left = run_keeper.start
        status 202
        answer({ left: left.map(&:to_h), run: RunView.new(Run.find(params['run'])).to_h })
      end

      app.post '/runs/:run/pause' do
        run_keeper.pause
        run_answer
      end

      # "count" of those that are written are started in the emulator.
      app.post '/runs/:run/try' do
        run_keeper.try(Integer(body_params['count']))
        status 202
        run_answer
      end

      # What is set in the first three, as it would stand there.
      app.get('/runs/:run/names') { answer(RunView.names(run)) }

      # For those that have not got their name.
      app.post '/runs/:run/names' do
        run_keeper.name
        run_answer
      end

      papers(app)
    end

    def self.papers(app)
      app.get '/runs/:run/report.csv' do
        content_type 'text/csv'
        attachment "#{run.number}.csv"
        RunReport.new(run).csv
      end

      { 'report' => :pdf, 'stickers' => :stickers }.each do |name, made|
        app.get "/runs/:run/#{name}.pdf" do
          content_type 'application/pdf'
          attachment "#{run.number}-#{name}.pdf"
          RunReport.new(run).public_send(made)
        end
      end
    end
    private_class_method :papers
  end
end
