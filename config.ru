# frozen_string_literal: true

require_relative 'app/boot'

run Api::Stack.build
