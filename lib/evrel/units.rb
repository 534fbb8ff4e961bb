# frozen_string_literal: true

module Evrel
  # Numbers as people read them off a drive's label: decimal, with a unit.
  module Units
    DECIMAL = [['TB', 10**12], ['GB', 10**9], ['MB', 10**6], ['kB', 10**3]].freeze

    module_function

    # @param bytes [Integer]
    # @return [String] "480.1 GB", "312 MB", "17 B"
    def bytes(bytes)
      unit, factor = DECIMAL.find { |_, size| bytes >= size }
      return "#{bytes} B" unless unit

      format(bytes >= 10**9 ? '%<value>.1f %<unit>s' : '%<value>.0f %<unit>s', value: bytes.to_f / factor, unit:)
    end

    # @return [String] "1,204,882"
    def count(number) = number.to_s.gsub(/\B(?=(\d{3})+\z)/, ',')
  end
end
