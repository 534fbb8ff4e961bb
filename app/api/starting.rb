# frozen_string_literal: true

module Api
  # The proof that it starts: the chain, mends, trial starts, and the computer
  # itself.
  module Starting
    LONGEST = 500 # characters that are typed at once

    def self.registered(app)
      app.helpers do
        # Writes go first.
        def new_trial(kind: 'emulator', wish: {}, **of)
          docket.trial_starts.under_way_or_new(of, technician:, kind:, wish:)
        end

        def trial = @trial ||= TrialStart.find(params['id'])
        def packs = Array(body_params['packs']).map(&:to_s)
        def mender = MendKeeper.new(docket, technician)

        def written!
          raise Evrel::Refused, 'nothing has been written yet' unless docket.write&.verified
        end

        # "controller" (nvme, sata or virtio), "secure_boot", "attached" (with what is plugged in beside), "ask" (the command)
        def trial_wish
          given = body_params.slice('controller', 'secure_boot', 'attached', 'ask')
          known = Evrel::Startup::Emulator::CONTROLLERS.map(&:to_s)
          unless given['controller'].nil? || known.include?(given['controller'])
            raise Evrel::Refused.new("a controller is one of #{known.join(', ')}",
                                     where: 'controller')
          end

          given
        end
      end

      chain(app)
      trials(app)
      mends(app)
      checklist(app)
    end

    def self.chain(app)
      app.post '/dockets/:id/chain' do
        written!
        ChainReading.read(docket)
        answer(DocketView.of(docket))
      end

      # What is asked of the started system: "user", "password" (kept apart, never given back), "command", "expect".
      app.patch '/dockets/:id/proof' do
        Stations::StartStation.new(docket).ask(technician, body_params)
        answer(Stations::StartStation.new(docket).view)
      end

      # What the computer's hardware is: what lspci -nn -k prints, or modaliases.
      app.patch '/dockets/:id/hardware' do
        Stations::StartStation.new(docket).hardware(technician, body_params['hardware'].to_s)
        answer(Stations::StartStation.new(docket).view)
      end
    end

    def self.trials(app)
      # Of an image ("image_id"), or of the written disk.
      app.post '/dockets/:id/trial' do
        image = body_params['image_id']&.then { |id| Image.find(id) }
        image || written!
        status 202
        answer(TrialView.of(image ? new_trial(image:, wish: trial_wish) : new_trial(write: docket.write, wish: trial_wish)))
      end

      # The computer of the docket with what is really plugged in, as its boot order says.
      app.post '/dockets/:id/turn-on' do
        written!
        status 202
        answer(TrialView.of(new_trial(kind: 'computer', write: docket.write)))
      end

      app.post '/trials/:id/stop' do
        trial.update!(stop_asked: true)
        answer(TrialView.of(trial))
      end

      # "text" that is typed where it speaks, or "keys" pressed together.
      app.post '/trials/:id/type' do
        raise Evrel::Refused.new('it is not running', where: 'trial start') unless trial.state == 'running'

        text = body_params['text']
        keys = Array(body_params['keys']).map(&:to_s)
        fine = text.is_a?(String) ? text.length.between?(1, LONGEST) : keys.size.between?(1, 5) && keys.all?(Evrel::Startup::Emulator::KEYS)
        raise Evrel::Refused.new('give a text of at most 500 characters, or up to five names of keys', where: 'text') unless fine

        trial.inputs.create!(typed: text ? { text: } : { keys: })
        status 202
        answer(TrialView.of(trial))
      end

      app.get '/trials/:id/picture' do
        trial.here! if trial.picture
        path = trial.picture_path
        halt_with(404, 'NotFound', 'there is no picture of this trial start') unless path && File.file?(path)
        content_type 'image/png'
        cache_control :no_store
        send_file path
      end
    end

    def self.mends(app)
      # Driver packs that match the computer's hardware, the best first.
      app.get('/dockets/:id/driver-packs') { answer(DriverShelf.new(StartComputer.new(docket).computer).list) }

      # What a mend would change: nothing is written. "step" is the id of a step of the chain that has a mend.
      app.post('/dockets/:id/mends/draft') { answer(mender.draft(body_params['step'].to_s, packs: packs)) }

      app.post '/dockets/:id/mends' do
        mend = mender.apply(body_params['step'].to_s, packs: packs)
        status 201
        answer(mend.view)
      end

      app.post('/dockets/:id/mends/:mend/undo') { answer(mender.undo(docket.mends.find(params['mend'])).view) }
    end

    def self.checklist(app)
      # "done" and "note" of one item of the checklist.
      app.put '/dockets/:id/checklist/:item' do
        answer(Checklist.new(docket).tick(params['item'], technician, done: body_params['done'], note: body_params['note']))
      end

      # A photo as the body of the request; it is made anew, so that nothing hides in it.
      app.put '/dockets/:id/checklist/:item/photo' do
        answer(Checklist.new(docket).photo(params['item'], technician, request.body))
      end

      app.get '/dockets/:id/checklist/:item/photo' do
        path = Checklist.new(docket).photo_path(params['item'])
        halt_with(404, 'NotFound', 'there is no photo of that') unless path
        content_type 'image/jpeg'
        send_file path
      end
    end
    private_class_method :chain, :trials, :mends, :checklist
  end
end
