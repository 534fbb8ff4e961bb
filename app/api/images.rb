# frozen_string_literal: true

module Api
  # Images: the catalogue, checks, and looking inside.
  module Images
    PAGE = 300 # entries of a directory at once
    FOUND = 200
    # A search by name inside one image that was not indexed ends after this many entries.
    MOST_LOOKED = 300_000

    def self.registered(app)
      app.helpers do
        def image = @image ||= Image.find(params['id'])
        def part = Integer(params['part'], exception: false) || halt_with(400, 'Invalid', 'a part is a number')

        def inside
          ImageAccess.open(image) { |opened| yield Evrel::Image::Contents.new(opened).browsable(part) }
        end

        # Who sees what is inside of images, and takes it out, is written down.
        def told(kind, what)
          Event.add(kind, "#{what}, of the image of #{Words.time(image.taken_at)}, part #{part}", technician:, data: { image_id: image.id })
        end

        def entry_view(entry)
          { name: entry.name, path: entry.path, type: entry.type, size: entry.size, modified_at: entry.modified_at&.iso8601,
            note: entry.note }
        end

        def compared(part)
          { number: part.number, name: part.name, note: part.note, same: part.same, came: part.changes.count { |one| one.change == :came },
            went: part.changes.count { |one| one.change == :went }, changed: part.changes.count { |one| one.change == :changed },
            folders: ChangedFolders.of(part.changes) }
        end
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

      app.get '/images/:id/parts/:part/files' do
        inside do |volume|
          from = [params['from'].to_i, 0].max
          entries, total = volume.page(params['path'].presence || '/', from:, count: PAGE)
          answer({ path: params['path'].presence || '/', from:, total:, entries: entries.map { |entry| entry_view(entry) } })
        end
      end

      app.get '/images/:id/parts/:part/preview' do
        shown = inside { |volume| Preview.new(volume, params['path'].to_s).to_h }
        told('file_shown', "#{params['path']} looked at")
        answer(shown)
      end

      app.get '/images/:id/parts/:part/picture' do
        inside do |volume|
          type, bytes = Preview.new(volume, params['path'].to_s).picture
          halt_with(404, 'NotFound', 'that is no picture of a known kind') unless type
          content_type type
          headers 'Content-Security-Policy' => "default-src 'none'; sandbox", 'Content-Disposition' => 'inline'
          bytes
        end
      end

      app.get '/images/:id/parts/:part/find' do
        word = params['q'].to_s.downcase
        inside do |volume|
          found = volume.each_entry.lazy.first(MOST_LOOKED).lazy.select { |entry| entry.name.downcase.include?(word) }.first(FOUND)
          answer(found.map { |entry| entry_view(entry) })
        end
      end

      app.get '/images/:id/parts/:part/take' do
        kind = params['kind'].to_s
        paths = Array(params['path']).reject(&:empty?)
        halt_with(400, 'Invalid', 'an archive is a zip or a tar') unless Evrel::Archive::KINDS.key?(kind)
        halt_with(400, 'Invalid', 'choose something to take out') if paths.empty?
        out = TakeOut.new(image, part, paths, kind)
        told('files_taken', "#{paths.first(5).join(', ')}#{" and #{paths.size - 5} more" if paths.size > 5} taken out")
        out.answer
      end

      app.get '/images/:id/compare/:other' do
        older, newer = [image, Image.find(params['other'])].sort_by(&:taken_at)
        ImageAccess.open(older) do |before|
          ImageAccess.open(newer) do |after|
            answer({ older: { id: older.id, taken_at: older.taken_at.iso8601 }, newer: { id: newer.id, taken_at: newer.taken_at.iso8601 },
                     parts: Evrel::Image::Compare.new(before, after).parts.map { |one| compared(one) } })
          end
        end
      end
    end
  end
end
