# frozen_string_literal: true

module Api
  # What hands do at a real bench, for the stand-ins: pulling and plugging,
  # faults, switches, and computers.
  module Handling
    def self.registered(app)
      app.helpers do
        def provider = AttachedDrives.provider

        # The bench as it is afterwards.
        def handled(text)
          yield
          Event.add('bench', text, technician:)
          answer(BenchView.new.to_h)
        end
      end

      app.post('/bench/ports/:port/pull') { handled("Port #{params['port']} pulled") { provider.pull(params['port']) } }

      app.post '/bench/ports/:port/plug' do
        port = params['port']
        raise Evrel::Refused.new("there is no port #{port}", where: 'port') unless port.match?(/\A[1-9]\d?\z/)

        name = body_params['name'].to_s
        handled("A drive plugged into port #{port}") { provider.plug(name, port) }
      end

      app.post '/bench/swap' do
        ports = Array(body_params['ports']).map(&:to_s)
        raise Evrel::Refused.new('two ports are needed', where: 'ports') unless ports.uniq.size == 2

        handled("Ports #{ports.join(' and ')} swapped") { provider.swap(*ports) }
      end

      drives(app)
    end

    def self.drives(app)
      app.post '/bench/stand-ins/:name' do
        given = StandIns::Settings.checked(body_params)
        handled("Stand-in in port #{provider.port_of(params['name']) || 'none'} changed: #{given.keys.join(', ')}") do
          provider.change_drive(params['name']) { |about| about.merge!(given) }
        end
      end

      app.post '/bench/computers/:name' do
        given = StandIns::Settings.computer(body_params)
        list = provider.computers
        one = list.find { |computer| computer['name'] == params['name'] } or
          raise Evrel::NotFound.new("there is no computer #{params['name']}", where: params['name'])
        handled("Computer #{params['name']} changed: #{given.keys.join(', ')}") do
          one.merge!(given)
          provider.computers = list
        end
      end
    end
    private_class_method :drives
  end
end
