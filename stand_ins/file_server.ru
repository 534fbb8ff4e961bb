# frozen_string_literal: true

require_relative 'file_server'

run StandIns::FileServer.new(ENV.fetch('EVREL_FILES'))
