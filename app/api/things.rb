# frozen_string_literal: true

module Api
  # Images, the bench, computers, and finding any of them.
  module Things
    FOUND = 12 # rows of a search

    def self.registered(app)
      app.get('/images') { answer({ images: CatalogueView.images, shelves: CatalogueView.shelves }) }

      app.post '/shelves/:id/look' do
        shelf = Shelf.find(params['id'])
        raise Evrel::Refused.new("shelf #{shelf.name} is not attached", hint: 'plug its drive in') unless shelf.reachable?

        answer({ problems: shelf.look_through, images: CatalogueView.images, shelves: CatalogueView.shelves })
      end

      app.get('/bench') { answer(BenchView.new.to_h) }
      app.get('/computers') do
        answer(Computer.order(:name).map { |one| { id: one.id, name: one.name, place: one.place, firmware: one.firmware } })
      end

      app.get('/find') { answer(Finder.new(params['q'].to_s).results.first(FOUND)) }
    end
  end
end
