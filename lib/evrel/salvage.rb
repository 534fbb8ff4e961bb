# frozen_string_literal: true

module Evrel
  # Reading a failing disk before it is too late: what matters first, bad
  # regions left quickly, and a map of what became of every range, so that it
  # goes on for days, at another bench too.
  #
  # Passes, each over what the ones before have left:
  #
  #   structures   the table and what file systems need to say what is used
  #   used         what is used, in large steps; where one fails or takes too long, more and more is left behind
  #   edges        into what was left, from both ends, in small steps, up to the first that fails
  #   middles      what lies between, in small steps
  #   sectors      what failed in small steps, sector by sector
  #   again        the sectors that failed, as often as is wished
  #   unused       what is not used, where that is wished
  module Salvage
    PASSES = %i[structures used edges middles sectors again unused].freeze

    # An image of a failing disk: salvaged as far as it goes, then packed from what was read.
    # @param disk [Disk]
    # @param folder [String] of what is salvaged, until the image is there; it goes on from what lies there
    # @param image [String] folder of the image
    # @param salvage [Hash] as Run takes it
    # @param capture [Hash] as Image::Capture takes it
    # @param earlier [Image::Native, nil] of the same disk: only what that lacks is read
    # @yieldparam progress [Progress, Image::Course::Progress]
    # @return [Image::Manifest, Run::Result] the latter where a limit ended the run before everything was tried
    def self.image(disk, folder, image, salvage: {}, capture: {}, earlier: nil, &block)
      store = Store.open(folder, disk.size, disk.logical_sector)
      Earlier.new(earlier, disk).into(store) if earlier
      result = Run.new(disk, store, **salvage).run(&block)
      return result unless result.complete || result.because == :enough

      how = { beside: { Image::Native::SALVAGE => store.map_path }, tolerate_unread: true, most_unread: Float::INFINITY, **capture }
      manifest = Image::Capture.new(Salvaged.new(store, result.used, disk), image, **how).run(&block)
      FileUtils.rm_rf(folder)
      manifest
    ensure
      store&.close
    end

    # How far a run is. All in bytes: wanted is what is to be read, read, left, skipped and bad what became of it; errors
    # counts reads that failed; at is the byte of the last read, offset the same for people.
    Progress = Struct.new(:pass, :wanted, :read, :left, :skipped, :bad, :errors, :at, keyword_init: true)
  end
end
