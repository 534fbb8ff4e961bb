# frozen_string_literal: true

require_relative 'app/boot'

AttachedDrives.read_ahead
Passphrases.serve
run Api::Stack.build
