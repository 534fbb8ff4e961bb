# frozen_string_literal: true

require_relative 'app/boot'

LOAD_ALL.call(api: true)
AttachedDrives.read_ahead
Passphrases.serve
run Api::Stack.build
