# frozen_string_literal: true

require_relative 'app/boot'

Evrel.load_all
AttachedDrives.read_ahead
Passphrases.serve
run Api::Stack.build
