# frozen_string_literal: true

module Evrel
  # Text as file systems and registries of one family keep it.
  module Utf16
    # @param bytes [String, nil] little-endian; left as it is
    # @return [String] in UTF-8, with a mark in place of what is no character; empty where there are no bytes
    def self.text(bytes) = bytes.to_s.dup.force_encoding('UTF-16LE').encode('UTF-8', invalid: :replace, undef: :replace)
  end
end
