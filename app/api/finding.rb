# frozen_string_literal: true

module Api
  # The bench, computers, and finding anything.
  module Finding
    FOUND = 12 # rows of a search

    def self.registered(app)
      app.get('/bench') { answer(BenchView.new.to_h) }
      app.get('/computers') do
        answer(Computer.order(:name).map { |one| { id: one.id, name: one.name, place: one.place, firmware: one.firmware } })
      end

      app.get('/find') { answer(Finder.new(params['q'].to_s).results.first(FOUND)) }
    end
  end
end
