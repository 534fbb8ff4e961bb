# frozen_string_literal: true

module Api
  # Shelves: adding, renaming, looking through, taking away.
  module Shelves
    def self.registered(app)
      app.helpers do
        def shelf = @shelf ||= Shelf.find(params['id'])
        def keeper = ShelfKeeper.new(technician)

        def look_through(shelf)
          return if %w[queued running].include?(shelf.look_state)

          shelf.update!(look_state: 'queued', look_stop: false, look_error: nil)
          shelf.enqueue
        end
      end

      app.get('/shelves') { answer(ShelfView.all) }

      app.post '/shelves' do
        made = keeper.add(body_params)
        look_through(made)
        status 201
        answer(ShelfView.of(made.reload))
      end

      app.patch('/shelves/:id') { answer(ShelfView.of(keeper.change(shelf, body_params))) }

      app.delete '/shelves/:id' do
        keeper.take_away(shelf)
        answer(ShelfView.all)
      end

      app.get('/shelves/:id/problems') { answer(ShelfView.problems(shelf)) }

      app.post '/shelves/:id/look' do
        # A web server may answer again: only the look itself can tell.
        unless shelf.kind == 'web' || ShelfAccess.there?(shelf)
          raise Evrel::Refused.new("shelf #{shelf.name} is not attached",
                                   hint: 'plug its drive in')
        end

        look_through(shelf)
        status 202
        answer(ShelfView.of(shelf.reload))
      end

      app.post '/shelves/:id/look/stop' do
        shelf.update!(look_stop: true)
        answer(ShelfView.of(shelf))
      end
    end
  end
end
