# frozen_string_literal: true

require_relative 'app/boot'

AttachedDrives.look_ahead
run Api::Stack.build
