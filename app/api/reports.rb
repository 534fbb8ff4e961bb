# frozen_string_literal: true

module Api
  # What a docket leaves behind: reports, records, histories; and who it waits
  # for until then.
  module Reports
    def self.registered(app)
      handing(app)
      reports(app)
      records(app)
    end

    def self.handing(app)
      # Those who could take a docket over.
      app.get '/technicians' do
        people = Technician.at_work.where.not(role: 'reader').order(:name)
        answer(people.map { |one| { id: one.id, name: one.name, short_name: one.short_name } })
      end

      # To a colleague ("technician_id", with "note"), or to whoever comes first (null).
      app.post '/dockets/:id/hand-over' do
        answer(DocketView.of(HandOver.new(docket).to(body_params['technician_id'], body_params['note'].to_s, by: technician)))
      end

      # The same trouble for an equal computer.
      app.post '/dockets/:id/copy' do
        computer = Computer.find(body_params['computer_id'])
        made = HandOver.new(docket).copy(computer, by: technician)
        status 201
        answer(DocketView.of(made))
      end
    end

    def self.reports(app)
      app.get('/dockets/:id/report') { answer(DocketReport.of(docket)) }

      app.get '/dockets/:id/report.pdf' do
        report = DocketReport.of(docket)
        picture = report.dig('start', 'trial', 'picture')
        content_type 'application/pdf'
        attachment "#{docket.number}-#{docket.computer.name}.pdf"
        ReportPdf.new(report, picture: picture && Config.path('pictures', File.basename(picture))).render
      end

      app.get('/dockets/:id/chain') do
        found = EventChain.new(docket).check
        answer({ count: found.count, head: found.head, whole: found.whole?, broken_at: found.broken_at })
      end
    end

    def self.records(app)
      app.get('/records') { answer(Records.new(params).page) }

      app.get '/records.csv' do
        content_type 'text/csv'
        attachment 'evrel-dockets.csv'
        Records.new({}).csv
      end

      app.get('/computers/:id/history') { answer(History.of_computer(Computer.find(params['id']))) }
      app.get('/drives/:id/history') { answer(History.of_drive(Drive.find(params['id']))) }
    end
    private_class_method :handing, :reports, :records
  end
end
