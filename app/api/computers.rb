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
      tables(app)
      photos(app)
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

      app.get('/images-whose') { answer(Whose.new.told) }
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
        computers.own(image, body_params['computer_id']&.then { |id| Computer.find(id) })
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

    def self.tables(app)
      app.get '/computers.csv' do
        content_type 'text/csv'
        attachment 'evrel-computers.csv'
        ComputerTable.csv
      end

      # What would become of each row; with "apply", it is done.
      app.post '/computers-import' do
        import = ComputerImport.new(body_params['text'].to_s, technician)
        answer(body_params['apply'] ? import.apply : import.told)
      end
    end

    def self.photos(app)
      # A photo as the body of the request.
      app.post '/computers/:id/photos' do
        status 201
        ComputerPhotos.new(computer).add(params['of'], request.body, technician)
        answer(ComputerView.of(computer))
      end

      app.get '/computers/:id/photos/:photo' do
        photo = computer.photos.find(params['photo']).tap(&:here!)
        halt_with(404, 'NotFound', 'the photo is gone') unless File.file?(photo.path)
        content_type 'image/jpeg'
        send_file photo.path
      end

      app.delete '/computers/:id/photos/:photo' do
        ComputerPhotos.new(computer).take_away(computer.photos.find(params['photo']), technician)
        answer(ComputerView.of(computer))
      end
    end
    private_class_method :looking, :changing, :tables, :photos
  end
end
