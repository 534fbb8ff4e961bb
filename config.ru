# frozen_string_literal: true

require_relative 'app/boot'

LOAD_ALL.call('shared', 'models', 'services', 'stations', 'flows', 'jobs', 'api')
AttachedDrives.read_ahead
Passphrases.serve
run Api::Stack.build
