# frozen_string_literal: true

module Api
  # What hands do at a bench, where one offers it: pulling and plugging, faults,
  # switches, and computers. Where there are several, "bench" names the one.
  module Bench
    def self.registered(app)
      app.helpers do
        def bench_for(what) = Benches.for(what, body_params['bench'])

        # The bench as it is afterwards.
        def handled(text)
          yield
          Event.add('bench', text, technician:)
          answer(BenchView.new.to_h)
        end
      end

      drives(app) if Benches.offering(:handling).any?
      computers(app) if Benches.offering(:computers).any?
    end

    def self.drives(app)
      app.post('/bench/ports/:port/pull') do
        handled("Port #{params['port']} pulled") { bench_for(:handling).pull(params['port']) }
      end

      app.post '/bench/ports/:port/plug' do
        port = params['port']
        handled("A drive plugged into port #{port}") { bench_for(:handling).plug(body_params['name'].to_s, port) }
      end

      app.post '/bench/swap' do
        ports = Array(body_params['ports']).map(&:to_s)
        raise Evrel::Refused.new('two ports are needed', where: 'ports') unless ports.uniq.size == 2

        handled("Ports #{ports.join(' and ')} swapped") { bench_for(:handling).swap(*ports) }
      end

      app.post '/bench/stand-ins/:name' do
        given = body_params.except('bench')
        bench = bench_for(:handling)
        handled("Stand-in in port #{bench.port_of(params['name']) || 'none'} changed: #{given.keys.join(', ')}") do
          bench.handle_drive(params['name'], given)
        end
      end
    end

    def self.computers(app)
      app.post '/bench/computers/:name' do
        given = body_params.except('bench')
        handled("Computer #{params['name']} changed: #{given.keys.join(', ')}") do
          bench_for(:computers).handle_computer(params['name'], given)
        end
      end
    end
    private_class_method :drives, :computers
  end
end
