# frozen_string_literal: true

module Evrel
  # Will it start: reading the start-up chain off a disk, and trying it.
  module Startup
    # What a stand-alone look assumes about the computer.
    DEFAULT_FIRMWARE = { 'kind' => 'uefi', 'secure_boot' => false, 'loader' => nil }.freeze

    # @param disk [Disk] an image's or a written disk
    # @param firmware [Hash] "kind" ("uefi" or "bios"), "secure_boot", "loader" (path of the
    #   start entry, nil for the default place)
    # @param others [Array<String>] partition GUIDs and file system UUIDs on the other attached disks
    # @return [Array<Fact>] the chain, step by step, up to where it breaks
    def self.chain(disk, firmware: DEFAULT_FIRMWARE, others: [])
      return UefiChain.new(disk, firmware, others).steps if firmware['kind'] == 'uefi'

      [Fact.new(id: 'firmware', state: :ask, title: 'Starts by BIOS',
                detail: 'The chain of a BIOS computer is not read yet: use the trial start',
                evidence: "firmware kind #{firmware['kind'].inspect}")]
    end
  end
end
