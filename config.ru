# frozen_string_literal: true

require_relative 'app/boot'

LOAD_ALL.call(api: true)
LOAD_TABLES.call
AttachedDrives.read_ahead
Passphrases.serve
run Api::Stack.build
