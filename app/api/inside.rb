# frozen_string_literal: true

module Api
  # Looking inside of images and of attached drives, taking files out of them,
  # and laying two beside each other. What others made is never read by the
  # server itself (see Looks).
  module Inside
    PAGE = 300 # entries of a directory at once
    FOUND = 200
    # A search by name that was not indexed ends after this many entries.
    MOST_LOOKED = 300_000
    KINDS = %w[images drives].freeze

    def self.registered(app)
      app.helpers do
        def part = Integer(params['part'], exception: false) || halt_with(400, 'Invalid', 'a part is a number')
        def holding(kind) = @holding ||= Holding.find(kind, params['id'])

        # What the block gives is plain data.
        def inside(kind, &look)
          whole = holding(kind)
          number = part
          Looks.call(technician) { whole.volume(number, &look) }
        end

        # Who sees what is inside, and takes it out, is written down.
        def told(kind, what)
          Event.add(kind, "#{what}, #{@holding.of}, part #{part}", technician:, data: @holding.about)
        end

        def entry_view(entry)
          { name: entry.name, path: entry.path, type: entry.type, size: entry.size, modified_at: entry.modified_at&.iso8601,
            note: entry.note }
        end

        def compared(older, newer)
          parts = Looks.call(technician, seconds: 300, processor: 240) do
            older.open { |before| newer.open { |after| Evrel::Image::Compare.new(before, after).parts.map { |one| changes_of(one) } } }
          end
          answer({ older: one_of(older), newer: one_of(newer), parts: })
        end

        def one_of(holding) = { id: holding.record.id, taken_at: holding.taken_at.iso8601 }

        def changes_of(part)
          counts = part.changes.map(&:change).tally
          { number: part.number, name: part.name, note: part.note, same: part.same, came: counts[:came].to_i, went: counts[:went].to_i,
            changed: counts[:changed].to_i, folders: ChangedFolders.of(part.changes) }
        end
      end

      KINDS.each { |kind| looking(app, kind) }
      beside(app)
    end

    def self.looking(app, kind)
      app.get("/#{kind}/:id/parts/:part/files") do
        path = params['path'].presence || '/'
        from = [params['from'].to_i, 0].max
        entries, total = inside(kind) do |volume|
          entries, total = volume.page(path, from:, count: PAGE)
          [entries.map { |entry| entry_view(entry) }, total]
        end
        answer({ path:, from:, total:, entries: })
      end

      app.get("/#{kind}/:id/parts/:part/preview") do
        shown = inside(kind) { |volume| Preview.new(volume, params['path'].to_s).to_h }
        told('file_shown', "#{params['path']} looked at")
        answer(shown)
      end

      app.get("/#{kind}/:id/parts/:part/picture") do
        type, bytes = inside(kind) do |volume|
          type, bytes = Preview.new(volume, params['path'].to_s).picture
          [type, bytes && [bytes].pack('m0')]
        end
        halt_with(404, 'NotFound', 'that is no picture of a known kind') unless type && Preview::PICTURES.value?(type)
        content_type type
        headers 'Content-Security-Policy' => "default-src 'none'; sandbox", 'Content-Disposition' => 'inline'
        bytes.unpack1('m0')
      end

      app.get("/#{kind}/:id/parts/:part/find") do
        word = params['q'].to_s.downcase
        answer(inside(kind) do |volume|
          volume.each_entry.lazy.first(MOST_LOOKED).lazy.select { |entry| entry.name.downcase.include?(word) }.first(FOUND)
                .map { |entry| entry_view(entry) }
        end)
      end

      app.get("/#{kind}/:id/parts/:part/take") do
        chosen = params['kind'].to_s
        paths = Array(params['path']).reject(&:empty?)
        halt_with(400, 'Invalid', 'an archive is a zip or a tar') unless Evrel::Archive::KINDS.key?(chosen)
        halt_with(400, 'Invalid', 'choose something to take out') if paths.empty?
        out = TakeOut.new(holding(kind), part, paths, chosen, technician)
        told('files_taken', "#{paths.first(5).join(', ')}#{" and #{paths.size - 5} more" if paths.size > 5} taken out")
        out.answer
      end
    end

    def self.beside(app)
      app.get('/drives/:id/inside') { answer(DriveInside.of(drive)) }

      app.get '/images/:id/compare/:other' do
        compared(*[params['id'], params['other']].map { |id| Holding.find('images', id) }.sort_by(&:taken_at))
      end

      # A drive is as it is now, and so the newer one.
      app.get('/drives/:id/compare/:image') { compared(Holding.find('images', params['image']), holding('drives')) }
    end
    private_class_method :looking, :beside
  end
end
