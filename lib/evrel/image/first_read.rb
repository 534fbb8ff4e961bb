# frozen_string_literal: true

module Evrel
  module Image
    # What the clusters of a drive were when they were first read: the digest of
    # each in a file of its own, so that what is written can be held against it
    # without reading the drive again. It outlives a write that is cut off.
    #
    #   offset 0             identity of the source, as text, filled up with zeros
    #   offset 64 + 32 × n   BLAKE3 digest of cluster n; zeros where it was not read yet
    #
    # Several processes may add to it: none writes where another one does.
    class FirstRead
      HEAD = 64
      SIZE = 32
      NONE = ("\0" * SIZE).b.freeze

      # @param path [String] made where it is not there, and emptied where it is of another source
      # @param uid [String] identity of the source
      def initialize(path, uid)
        @io = ::File.open(path, ::File::RDWR | ::File::CREAT | ::File::BINARY, 0o600)
        head = uid.b.ljust(HEAD, "\0".b)
        return if @io.pread(HEAD, 0) == head

        begin_with(head)
      rescue EOFError
        begin_with(head)
      end

      # @param index [Integer] of a cluster
      # @return [String, nil] 32 bytes, nil where it was not read yet
      def of(index)
        found = @io.pread(SIZE, HEAD + (index * SIZE))
        found if found.bytesize == SIZE && found != NONE
      rescue EOFError
        nil
      end

      # Only the first time counts.
      # @param index [Integer]
      # @param data [String] of the cluster
      def add(index, data)
        @io.pwrite(Digests.of(data), HEAD + (index * SIZE)) unless of(index)
      end

      def close = @io.close

      private

      def begin_with(head)
        @io.truncate(0)
        @io.pwrite(head, 0)
      end
    end
  end
end
