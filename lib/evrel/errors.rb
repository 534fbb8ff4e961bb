# frozen_string_literal: true

module Evrel
  # Root of every error that the core raises on purpose. The message says what
  # is wrong, `where` (a path, a partition, an offset in bytes) says at which
  # place, and `hint` says what can be done.
  class Error < StandardError
    attr_reader :where, :hint

    def initialize(message, where: nil, hint: nil)
      super(message)
      @where = where
      @hint = hint
    end

    # @param name [String, nil] as in #to_h
    # @return [Class, nil] the kind of that name; nil where it is none that the core raises on purpose
    def self.named(name)
      kind = Evrel.const_get(name) if name && Evrel.constants.include?(name.to_sym)
      kind if kind.is_a?(Class) && kind <= Error
    end

    # @return [Hash] the error as the API and the command line print it.
    def to_h
      { error: self.class.name.split('::').last, message:, where:, hint: }.compact
    end
  end

  # A structure on the disk or in a file contradicts itself or ends early.
  class Damaged < Error; end

  # The structure is sound but of a kind that this version does not handle.
  class Unsupported < Error; end

  # The operating system could not give or take the bytes.
  class Unreadable < Error; end

  # The device does not answer at all: it is not there any more.
  class Away < Unreadable; end

  # It was asked for as often as makes sense: nobody waits for it to come after all.
  class Lost < Unreadable; end

  # To be rescued where one bad place bars nothing else: what lies there
  # contradicts itself or cannot be read. Where the device itself has gone away,
  # nothing is known of the place.
  module BadPlace
    # @return [Boolean] whether an error is of that kind (Damaged or Unreadable, but not Away)
    def self.===(error) = (error.is_a?(Damaged) || error.is_a?(Unreadable)) && !error.is_a?(Away)
  end

  # A read or write outside of the disk. Whoever reads goes by what lies there:
  # a structure has led outside of it.
  class OutOfRange < Damaged; end

  # Bytes do not match the checksum that was taken of them.
  class Mismatch < Error; end

  # The target cannot hold what it should.
  class DoesNotFit < Error; end

  # A rule forbids the operation.
  class Refused < Error; end

  # What opens it is missing, or is wrong.
  class Locked < Error; end

  # A file or directory that was asked for is not there.
  class NotFound < Error; end

  # Somebody asked a running operation to stop; it stopped at a safe point.
  class Stopped < Error; end
end
