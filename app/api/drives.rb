# frozen_string_literal: true

module Api
  # Drives: what is remembered of them, protecting, counting, saving, cleaning
  # and testing.
  module Drives
    def self.registered(app)
      app.helpers do
        def drive = @drive ||= Drive.find(params['id'])
        def keeper_of_drive = DriveKeeper.new(drive, technician)
        def first_aid = FirstAid.new(docket, body_params['drive_id'], technician)

        def task_answer(task)
          status 202
          answer(TaskView.of(task))
        end
      end

      app.get('/drives/:id') { answer(DriveView.of(drive)) }

      # Nothing is written to it.
      app.post '/drives/:id/trial' do
        status 202
        answer(TrialView.of(SourceDrives.try(drive, technician)))
      end

      app.post '/drives/:id/protection' do
        given = body_params
        keeper_of_drive.protect(given['note'], given['until'])
        answer(DriveView.of(drive.reload))
      end

      app.delete '/drives/:id/protection' do
        keeper_of_drive.lift
        answer(DriveView.of(drive.reload))
      end

      app.post '/drives/:id/unplug-check' do
        keeper_of_drive.unplug
        status 202
        answer(BenchView.new.to_h)
      end

      app.delete '/bench/unplug-check' do
        UnplugProof.give_up(nil, 'it was given up')
        answer(BenchView.new.to_h)
      end

      app.post('/drives/:id/clean') { task_answer(keeper_of_drive.clean(body_params)) }
      app.post('/drives/:id/capacity-test') { task_answer(keeper_of_drive.test_capacity(body_params)) }

      app.post '/tasks/:id/stop' do
        task = DriveTask.find(params['id'])
        task.update!(stop_asked: true)
        answer(TaskView.of(task))
      end

      before_sealing(app)
    end

    def self.before_sealing(app)
      app.post('/dockets/:id/count') { task_answer(first_aid.count) }

      app.post '/dockets/:id/save' do
        given = body_params
        task_answer(FirstAid.new(docket, given['drive_id'], technician).save(Shelf.find(given['shelf_id']), given['wanted']))
      end

      app.post '/dockets/:id/unplug-check' do
        Stations::TargetStation.new(docket).unplug(technician, body_params['drive_id'])
        status 202
        answer(Stations::TargetStation.new(docket.reload).view)
      end

      app.delete '/dockets/:id/unplug-check' do
        UnplugProof.give_up(docket, 'it was given up')
        answer(Stations::TargetStation.new(docket.reload).view)
      end
    end
    private_class_method :before_sealing
  end
end
