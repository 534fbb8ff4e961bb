# frozen_string_literal: true

module Api
  # Images: the catalogue, checks and trial starts.
  module Images
    FOUND = 200

    def self.registered(app)
      app.helpers do
        def image = @image ||= Image.find(params['id'])
      end

      app.get('/images') { answer(Catalogue.new(params).page) }
      app.get('/images/:id') { answer(ImageView.of(image)) }
      app.get('/files') { answer(FileSearch.new(params['q'].to_s).groups.first(FOUND)) }
      app.get('/files/unsearched') { answer(FileSearch.unsearched) }

      app.post '/images/:id/check' do
        unless image.shelf.kind == 'web' || ShelfAccess.there?(image.shelf)
          raise Evrel::Refused.new("shelf #{image.shelf.name} is not attached",
                                   hint: 'plug its drive in')
        end
        if image.incomplete?
          raise Evrel::Refused.new("it is not all there: #{image.problem}",
                                   hint: 'look through the shelf again when it is')
        end

        image.begin_check
        status 202
        answer(ImageView.of(image))
      end

      app.post '/images/:id/unlock' do
        Unlocking.new(image, technician).open(body_params['passphrase'])
        answer(ImageView.of(image))
      end

      app.delete '/images/:id/unlock' do
        Unlocking.new(image, technician).close
        answer(ImageView.of(image))
      end

      app.post '/images/:id/check/pause' do
        raise Evrel::Refused, 'no check is running' unless image.state == 'checking'

        image.update!(pause_asked: true)
        status 202
        answer(ImageView.of(image))
      end

      app.post '/images/:id/trial' do
        status 202
        answer(TrialView.of(image.trial_starts.under_way_or_new(technician:)))
      end
    end
  end
end
