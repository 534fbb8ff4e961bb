# frozen_string_literal: true

module Evrel
  module Volume
    # What an NTFS file is that is more than its stream: a reparse point says by
    # its tag where the contents really are ([MS-FSCC], 2.1.2.1).
    module NtfsReparse
      SYSTEM_COMPRESSED = 0x8000_0017
      DEDUPLICATED = 0x8000_0013
      LINKS = [0xA000_0003, 0xA000_000C, 0xA000_001D].freeze
      CLOUD = 0x9000_001A # in bits 12 to 15 it counts kinds
      CLOUD_BITS = 0x0000_F000
      OLDER_STORES = [0x8000_0021, 0xC000_0004, 0x8000_0006].freeze

      module_function

      # @param tag [Integer]
      # @return [String, nil] why the contents cannot be read; nil where they can
      def note(tag)
        case tag
        when SYSTEM_COMPRESSED then nil
        when DEDUPLICATED then 'deduplicated: its contents lie in a store of their own'
        when *LINKS then 'a link to another place'
        when *OLDER_STORES then 'moved away: its contents lie in another storage'
        else
          return 'a placeholder: its contents lie in a cloud' if tag & ~CLOUD_BITS == CLOUD

          format('of a kind of its own (tag %<tag>08x)', tag:)
        end
      end

      # @return [Boolean] whether it only leads somewhere else, and has no contents of its own
      def link?(tag) = LINKS.include?(tag)
    end
  end
end
