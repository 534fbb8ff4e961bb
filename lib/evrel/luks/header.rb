# frozen_string_literal: true

require 'openssl'
require 'securerandom'

module Evrel
  module Luks
    # The header of a container (chapter 2 of the specification), all numbers
    # big-endian:
    #
    #   0 magic, 6 version, 8 name of the cipher (32), 40 its mode (32), 72 hash (32), 104 first sector of what is
    #   encrypted, 108 bytes of the key, 112 digest of the key (20), 132 its salt (32), 164 its iterations, 168 UUID (40),
    #   208 eight key slots of 48 bytes: 0 whether it is in use, 4 iterations, 8 salt (32), 40 first sector of its key
    #   material, 44 stripes
    class Header
      BYTES = 592
      SLOTS = 208
      SLOT = 48
      COUNT = 8
      USED = 0x00AC71F3
      FREE = 0x0000DEAD
      STRIPES = 4000
      KEYS = [32, 64].freeze
      DIGEST = 20
      # A header may lie: trying a passphrase shall end in this life.
      MOST_ITERATIONS = 20_000_000
      LEAST_ITERATIONS = 100_000
      # For the digest of the key, which nobody can guess (the least that the specification allows, table 1).
      DIGEST_ITERATIONS = 1000
      PAYLOAD = 4096 # sectors: 2 MiB
      SLOT_SECTORS = 504

      Slot = Struct.new(:iterations, :salt, :sector, :stripes)

      # @param source [Disk]
      # @raise [Damaged, Unsupported]
      def self.read(source) = new(source.read(0, BYTES), source.size)

      # A new container with a new key, which one passphrase opens.
      # @param passphrase [String]
      # @return [Array<(String, String)>] all that lies in front of what is encrypted, and the key
      def self.made(passphrase)
        key = SecureRandom.bytes(64)
        salt, slot_salt = Array.new(2) { SecureRandom.bytes(32) }
        iterations = affordable
        digest = Gcrypt.pbkdf2(key, salt, DIGEST_ITERATIONS, DIGEST, 'sha256')
        front = [MAGIC, 1, 'aes', 'xts-plain64', 'sha256', PAYLOAD, key.bytesize, digest, salt, DIGEST_ITERATIONS, SecureRandom.uuid]
                .pack('a6na32a32a32NNa20a32Na40')
        slots = Array.new(COUNT) do |number|
          state = number.zero? ? [USED, iterations, slot_salt] : [FREE, 0, '']
          [*state, 8 + (number * SLOT_SECTORS), STRIPES].pack('NNa32NN')
        end
        opener = Gcrypt.pbkdf2(passphrase, slot_salt, iterations, key.bytesize, 'sha256')
        sealed = Sectors.new(opener).encrypt(Stripes.split(key, STRIPES, 'sha256'), 0)
        ["#{front}#{slots.join}".b.ljust(8 * SECTOR, "\0") + sealed.ljust((PAYLOAD - 8) * SECTOR, "\0"), key]
      end

      # @return [Integer] iterations that take SECONDS here
      def self.affordable
        before = Process.clock_gettime(Process::CLOCK_MONOTONIC)
        Gcrypt.pbkdf2('x', 'y' * 32, 20_000, 64, 'sha256')
        (20_000 * SECONDS / (Process.clock_gettime(Process::CLOCK_MONOTONIC) - before)).to_i.clamp(LEAST_ITERATIONS, MOST_ITERATIONS)
      end
      private_class_method :affordable

      # @return [Integer] byte at which what is encrypted begins
      attr_reader :payload

      # @param bytes [String] of the header
      # @param size [Integer] bytes of the container
      def initialize(bytes, size)
        magic, version, cipher, mode, @hash, payload, @key_bytes, @digest, @salt, @iterations = bytes.unpack('a6nZ32Z32Z32NNa20a32N')
        raise Damaged.new('this is no LUKS container of version 1', where: 'byte 0') unless magic == MAGIC && version == 1

        @payload = payload * SECTOR
        @slots = slots(bytes)
        supported!("#{cipher}-#{mode}")
        sound!(size)
      end

      # @param source [Disk]
      # @param passphrase [String]
      # @return [String] the key of what is encrypted
      # @raise [Locked] where it opens none of the slots
      def key(source, passphrase)
        @slots.each do |slot|
          bytes = (@key_bytes * slot.stripes / SECTOR.to_f).ceil * SECTOR
          opener = Gcrypt.pbkdf2(passphrase.b, slot.salt, slot.iterations, @key_bytes, @hash)
          material = Sectors.new(opener).decrypt(source.read(slot.sector * SECTOR, bytes), 0).byteslice(0, @key_bytes * slot.stripes)
          key = Stripes.merge(material, slot.stripes, @hash)
          return key if OpenSSL.secure_compare(Gcrypt.pbkdf2(key, @salt, @iterations, DIGEST, @hash), @digest)
        end
        raise Locked.new('the passphrase does not open it', where: 'passphrase', hint: 'try another one; capitals and the keyboard count')
      end

      private

      def slots(bytes)
        Array.new(COUNT) { |number| bytes.unpack("@#{SLOTS + (number * SLOT)}NNa32NN") }
             .select { |state,| state == USED }.map { |_, *fields| Slot.new(*fields) }
      end

      def supported!(cipher)
        return if cipher == 'aes-xts-plain64' && Gcrypt::HASHES.key?(@hash)

        raise Unsupported.new("containers with #{cipher.inspect} and #{@hash.inspect} are not read here", where: 'byte 8')
      end

      def sound!(size)
        fine = KEYS.include?(@key_bytes) && @payload.between?(BYTES, size) && (1..MOST_ITERATIONS).cover?(@iterations) &&
               @slots.all? { |slot| sound_slot?(slot, size) }
        raise Damaged.new('the header of the container contradicts itself', where: 'byte 104') unless fine
      end

      def sound_slot?(slot, size)
        (1..MOST_ITERATIONS).cover?(slot.iterations) && slot.stripes.between?(1, STRIPES) &&
          (slot.sector * SECTOR) + (@key_bytes * slot.stripes) + SECTOR <= size
      end
    end
  end
end
