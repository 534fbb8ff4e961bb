# frozen_string_literal: true

module Api
  # What runs in the worker: writes and trial starts.
  module Work
    def self.registered(app)
      app.helpers do
        # Writes go first.
        def queue(job) = Delayed::Job.enqueue(job, queue: Config.bench, priority: 10)

        def new_trial(**of)
          running = docket.trial_starts.where(state: %w[queued running], **of).first
          return running if running

          docket.trial_starts.create!(technician:, **of).tap { |trial| queue(TrialJob.new(trial.id)) }
        end
      end

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

      # "unused" and "differing", before it is begun.
      app.patch '/dockets/:id/write/manner' do
        Stations::WriteStation.new(docket).choose(body_params)
        answer(Stations::WriteStation.new(docket).view)
      end

      app.post '/dockets/:id/chain' do
        raise Evrel::Refused, 'nothing has been written yet' unless docket.write&.verified

        Stations::StartStation.new(docket).read_chain
        answer(DocketView.of(docket))
      end

      # Of an image ("image_id"), or of the written disk.
      app.post '/dockets/:id/trial' do
        image = body_params['image_id']&.then { |id| Image.find(id) }
        raise Evrel::Refused, 'nothing has been written yet' unless image || docket.write&.verified

        status 202
        answer(TrialView.of(image ? new_trial(image:) : new_trial(write: docket.write)))
      end

      app.post '/trials/:id/stop' do
        trial = TrialStart.find(params['id'])
        trial.update!(stop_asked: true)
        answer(TrialView.of(trial))
      end

      app.get '/trials/:id/picture' do
        path = TrialStart.find(params['id']).picture_path
        halt_with(404, 'NotFound', 'there is no picture of this trial start') unless path && File.file?(path)
        content_type 'image/png'
        send_file path
      end
    end
  end
end
