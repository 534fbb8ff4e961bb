# frozen_string_literal: true

require_relative 'app/boot'

AttachedDrives.read_ahead
run Api::Stack.build
