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

    # @param seconds [Numeric]
    # @return [String] "40 s", "12 min", "5 h", "3 days"
    def span(seconds)
      seconds = seconds.abs.to_f
      return "#{seconds.round} s" if seconds < 90
      return "#{(seconds / 60).round} min" if seconds < 90 * 60
      return "#{(seconds / 3600).round} h" if seconds < 36 * 3600

      "#{(seconds / 86_400).round} days"
    end

    # @param words [Array<String>]
    # @return [String] "Start-up, System and Recovery"
    def list(words) = words.size < 2 ? words.join : "#{words[0..-2].join(', ')} and #{words.last}"

    # @return [String] "1,204,882"
    def count(number) = number.to_s.gsub(/\B(?=(\d{3})+\z)/, ',')
  end
end
