# frozen_string_literal: true

require 'puma'
require 'puma/server'
require_relative '../../stand_ins/file_server'

# A real file server on a port of its own, for as long as the example runs.
module FileServers
  # @param folder [String]
  # @return [String] its address
  def served(folder)
    server = Puma::Server.new(StandIns::FileServer.new(folder), Puma::Events.new, log_writer: Puma::LogWriter.null)
    port = server.add_tcp_listener('127.0.0.1', 0).addr[1]
    server.run
    (@servers ||= []) << server
    "http://127.0.0.1:#{port}/"
  end

  # What the server shall do from now on; see StandIns::FileServer.
  def misbehave(folder, **settings) = File.write(File.join(folder, StandIns::FileServer::SETTINGS), JSON.generate(settings))

  def stop_servers = @servers&.each { |server| server.stop(true) }
end

RSpec.configure do |config|
  config.include FileServers
  config.after { stop_servers }
end
