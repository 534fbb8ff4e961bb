# frozen_string_literal: true

module Api
  # The bench, and finding anything.
  module Finding
    FOUND = 12 # rows of a search

    def self.registered(app)
      app.get('/bench') { answer(BenchView.new.to_h) }
      app.get('/find') { answer(Finder.new(params['q'].to_s).results.first(FOUND)) }
    end
  end
end
