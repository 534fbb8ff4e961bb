# frozen_string_literal: true

module Api
  # Computers: registering, changing, one of two, putting aside.
  module Computers
    def self.registered(app)
      app.helpers do
        def computer = @computer ||= Computer.find(params['id'])
        def computers = ComputerKeeper.new(technician)
      end
      looking(app)
      changing(app)
    end

    def self.looking(app)
      app.get('/computers') { answer(ComputerList.new(params).page) }
      app.get('/computers/:id') { answer(ComputerView.of(computer)) }

      app.get '/computers-alike' do
        answer(Alike.new(params, but: params['but']).list.map { |one, why| { id: one.id, name: one.name, place: one.place, why: } })
      end

      # What a drive or an image says of its computer.
      app.get '/drives/:id/computer' do
        attached = AttachedDrives.of(drive) or raise Evrel::Refused.new('the drive is not attached', hint: 'plug it in')
        answer(ComputerReader.drive(attached))
      end

      app.get('/images/:id/computer') { answer(ComputerReader.image(image)) }
      app.post('/computers-read') { answer(ComputerReader.text(body_params['text'].to_s)) }
    end

    def self.changing(app)
      # Whose a drive is.
      app.post '/drives/:id/computer' do
        computers.own_drive(drive, Computer.find(body_params['computer_id']))
        answer(DriveView.of(drive.reload))
      end

      # Whose an image is, where it says nothing of it.
      app.post '/images/:id/computer' do
        computers.own(image, Computer.find(body_params['computer_id']))
        answer(ImageView.of(image.reload))
      end

      app.post '/computers' do
        status 201
        answer(ComputerView.of(computers.add(body_params)))
      end

      app.patch('/computers/:id') { answer(ComputerView.of(computers.change(computer, body_params))) }
      app.post('/computers/:id/aside') { answer(ComputerView.of(computers.retire(computer, body_params['aside'] != false))) }
      app.post('/computers/:id/merge') { answer(ComputerView.of(computers.merge(computer, Computer.find(body_params['into'])))) }
    end
    private_class_method :looking, :changing
  end
end
