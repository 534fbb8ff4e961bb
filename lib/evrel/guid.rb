# frozen_string_literal: true

require 'securerandom'

module Evrel
  # GUIDs as text and in the mixed byte order in which GPT stores them
  # (UEFI specification 2.10, appendix A: the first three fields little-endian).
  module Guid
    ZERO = '00000000-0000-0000-0000-000000000000'
    FORM = /\A\h{8}-\h{4}-\h{4}-\h{4}-\h{12}\z/

    module_function

    # @param bytes [String] 16 bytes
    # @return [String] lower-case text
    def from_bytes(bytes)
      a, b, c, d, e = bytes.unpack('VvvnH12')
      format('%<a>08x-%<b>04x-%<c>04x-%<d>04x-%<e>s', a:, b:, c:, d:, e:)
    end

    # @param text [String]
    # @return [String] 16 bytes
    # @raise [Damaged] where the text is no GUID
    def to_bytes(text)
      raise Damaged.new("#{text.inspect} is not a GUID", where: 'GUID') unless FORM.match?(text.to_s)

      a, b, c, d, e = text.split('-')
      [a.hex, b.hex, c.hex, d.hex, e].pack('VvvnH12')
    end

    # @param bytes [String] 16 bytes in plain order, as file systems store UUIDs
    # @return [String, nil] nil where they are all zero: then there is none
    def from_plain_bytes(bytes)
      return if bytes.b.delete("\0").empty?

      bytes.unpack1('H32').sub(/\A(.{8})(.{4})(.{4})(.{4})(.{12})\z/, '\1-\2-\3-\4-\5')
    end

    def random = SecureRandom.uuid
  end
end
