# frozen_string_literal: true

# What takes long is done with EVREL_EFFORT=all. Of the starts in the emulator,
# each of half a minute, five are made in every run: an image with a proof, a
# screen that is read, a grown disk, and through the pages the whole way and a mend.
module Effort
  def self.all? = ENV['EVREL_EFFORT'] == 'all'

  # The rest of the example is asked with EVREL_EFFORT=all.
  def real_start! = Effort.all? || skip('started with EVREL_EFFORT=all')

  # @param path [String] of a disk
  # @param how [Hash] as Evrel::Startup::Trial.new takes it
  def expect_start(path, **how)
    return unless Effort.all?

    expect(Evrel::Startup::Trial.new(path, format: 'raw', limit: 300, **how).run).to be_started
  end
end

RSpec.configure { |config| config.include Effort }
