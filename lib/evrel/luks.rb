# frozen_string_literal: true

module Evrel
  # LUKS version 1 (LUKS On-Disk Format Specification 1.2.3): what lies behind
  # its header is encrypted sector by sector with a key that a passphrase opens.
  # As common tools write and read it: AES in XTS mode.
  module Luks
    MAGIC = "LUKS\xBA\xBE".b
    SECTOR = 512
    # How much work it is to try a passphrase: as many iterations as take this long here.
    SECONDS = 0.5

    # @param source [Disk]
    # @return [Boolean] whether a header of that version begins it
    def self.at?(source) = source.size >= Header::BYTES && source.read(0, 8) == "#{MAGIC}\0\1".b

    # @param source [Disk] the container
    # @param passphrase [String, nil]
    # @return [Opened]
    # @raise [Locked] where the passphrase is missing or wrong
    # @raise [Damaged, Unsupported]
    def self.open(source, passphrase)
      said!(passphrase)
      header = Header.read(source)
      Opened.new(source, header.payload, Sectors.new(header.key(source, passphrase)))
    end

    # A file that keeps its header somewhere in itself, and encrypts what lies anywhere in it by its place in the file.
    # @param file [Disk]
    # @param offset [Integer] byte of the header
    # @param length [Integer] bytes of it, with its keys
    # @return [Opened] of the same size, in the clear; only what is encrypted makes sense
    def self.within(file, offset, length, passphrase)
      said!(passphrase)
      window = Disk::Window.new(file, offset, length)
      Opened.new(file, 0, Sectors.new(Header.read(window).key(window, passphrase)))
    end

    def self.said!(passphrase)
      raise Locked.new('it is locked', where: 'passphrase', hint: 'say what opens it') if passphrase.nil?
    end
    private_class_method :said!
  end
end
