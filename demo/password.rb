# frozen_string_literal: true

require 'securerandom'

# The password of the demo's people.
module Demo
  WORDS = %w[anchor barge beacon bollard breeze buoy cabin channel compass current deck dinghy drift ebb fender ferry foghorn galley
             gangway gull harbour hatch haven headland heron hull island jetty kelp ketch lagoon lantern ledge lighthouse locker
             marina mast mooring oar osprey paddle pebble pier pilot plank porthole quay raft rigging rope rudder sail sandbar
             shingle shoal skiff slack spray stern tackle tide tiller trawler voyage wharf winch].freeze

  # @return [String] with which the demo's people sign in, made at its first start; var/demo-password
  def self.password
    file = Config.path('demo-password')
    return File.read(file) if File.exist?(file)

    [*Array.new(4) { WORDS.sample(random: SecureRandom) }, SecureRandom.rand(10..99)].join('-')
                                                                                     .tap { |made| File.write(file, made, perm: 0o600) }
  end
end
