# frozen_string_literal: true

module Evrel
  # What opens images that are locked, by the identity of each. It is kept in
  # memory only, and shows nothing of itself.
  class Keys
    # @param passphrases [Hash{String=>String}] identity of an image → what opens it
    def initialize(passphrases = {})
      @passphrases = passphrases
    end

    # @param passphrase [String, nil]
    # @return [Keys] that open whatever this one opens
    def self.one(passphrase) = passphrase ? new(Hash.new(passphrase)) : none

    # @return [Keys] that open nothing
    def self.none = new

    # @param uid [String]
    # @return [String, nil]
    def of(uid) = @passphrases[uid]

    # In errors and logs it shows no passphrase.
    def inspect = "#<#{self.class.name} #{@passphrases.size}>"
    alias to_s inspect
  end
end
