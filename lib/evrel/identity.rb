# frozen_string_literal: true

require 'openssl'

module Evrel
  # What a drive is known by: never its port or name. serial, wwn and model as
  # the drive tells them, capacity in bytes, fingerprint over what is on it.
  Identity = Struct.new(:serial, :wwn, :model, :capacity, :fingerprint, keyword_init: true) do
    # In errors and logs it shows nothing that proves a drive.
    def inspect = "#<#{self.class.name}>"
    alias_method :to_s, :inspect

    # @param disk [Disk] is only read
    # @return [String] over the sectors that hold the table and the start of
    #   each volume: changes when the drive is partitioned or formatted anew
    def self.fingerprint(disk)
      sha = OpenSSL::Digest.new('SHA256')
      edge = [MIB, disk.size].min
      [0, disk.size - edge].each { |offset| sha << disk.read(offset, edge) }
      partitions_of(disk).each { |part| sha << disk.read(part.start, [64 * KIB, part.size].min) }
      sha.hexdigest
    end

    def self.partitions_of(disk)
      Table.read(disk)&.partitions || []
    rescue Damaged
      [] # the edges of the disk are in it anyway
    end
    private_class_method :partitions_of

    # @param serial [String, nil]
    # @return [Boolean] whether it is long enough for a label that proves it
    def self.provable?(serial) = serial.to_s.strip.length >= 4

    # What a drive is remembered by: its serial, or, where it has none, the best
    # of what else it tells. Two drives with one key cannot be told apart.
    # @return [String]
    def self.key(serial:, wwn:, model:, capacity:)
      return serial.strip if provable?(serial)

      wwn.to_s.empty? ? "no serial, #{model}, #{capacity}" : "no serial, #{wwn}"
    end

    # How alike two serials look: of the same length, with few characters that differ.
    # @return [Array<Integer>, nil] where they differ; nil where they are not alike
    def self.near(one, other)
      return if one.to_s.length != other.to_s.length || !provable?(one)

      differing = (0...one.length).reject { |at| one[at].casecmp?(other[at]) }
      differing if differing.size.between?(1, 2)
    end

    # @param other [Identity]
    # @return [Array<Difference>] empty where it is the same drive, unchanged
    def differences(other)
      Identity::NAMES.filter_map do |field, name|
        next if self[field] == other[field]
        next Identity::Difference.new(field, 'its table or volumes have changed') if field == :fingerprint

        Identity::Difference.new(field, "#{name}: #{self[field] || 'none'} was sealed, #{other[field] || 'none'} is there now")
      end
    end

    # @param serial [String, nil]
    # @return [String, nil] with its last four characters hidden
    def self.mask(serial) = serial && (serial[0...-4] + ('•' * [4, serial.length].min))

    # @return [Boolean] whether there is a label to read it off
    def provable? = self.class.provable?(serial)

    # @return [String] the last four characters of the label
    def label = serial.to_s[-4..].to_s
  end

  # What is other than it was sealed: field, as in Identity, and words for people.
  Identity::Difference = Struct.new(:field, :words) do
    # @return [Boolean] whether what lies on it has changed, and not the drive itself
    def contents? = field == :fingerprint
    def to_s = words
  end

  Identity::NAMES = { serial: 'serial', wwn: 'world-wide name', model: 'model', capacity: 'capacity', fingerprint: 'contents' }.freeze
end
