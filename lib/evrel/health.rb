# frozen_string_literal: true

module Evrel
  # What a drive says about its own state: SMART data in the JSON form of
  # smartctl (its --json, format 1.0), for ATA and NVMe.
  module Health
    # state is "good", "worn", "failing" or "unknown"; reason is one line. Of
    # the numbers, what the drive does not tell is nil: reallocated and pending
    # are sectors, wear is percent of its life that is used, errors what its own
    # log counts, hours since it was made, temperature in °C.
    Report = Struct.new(:state, :reason, :reallocated, :pending, :wear, :errors, :hours, :temperature, keyword_init: true)

    # Raw attributes by their number in the vendor-independent use of ACS: 5
    # reallocated sectors, 197 pending, 198 uncorrectable.
    REALLOCATED = 5
    PENDING = 197
    UNCORRECTABLE = 198
    # Normalised attributes that count down from 100 as the flash is used up.
    LIFE = [231, 233, 177, 202].freeze
    # NVMe base specification, SMART log, critical warning: spare below its
    # threshold, reliability degraded, media read-only.
    CRITICAL = 0b0000_1101

    # From these on it is worn, or about to fail.
    LIMITS = { reallocated: 10, wear: 80, temperature: 60, dying: 2_000 }.freeze

    module_function

    # @param document [Hash, nil] parsed JSON; whatever it lacks is not known
    # @return [Report]
    def of(document)
      return unknown('No SMART data could be read') unless document.is_a?(Hash)

      numbers = numbers(document)
      return unknown('Its SMART data say nothing') if numbers.values.all?(&:nil?) && document.dig('smart_status', 'passed').nil?

      failing = failing(document, numbers)
      worn = worn(numbers)
      Report.new(state: if failing
                          'failing'
                        else
                          (worn.any? ? 'worn' : 'good')
                        end, reason: words(failing, worn, numbers), **numbers)
    rescue TypeError, NoMethodError
      unknown('Its SMART data are not built like any')
    end

    def unknown(reason) = Report.new(state: 'unknown', reason:)

    def numbers(document)
      nvme = document['nvme_smart_health_information_log'] || {}
      { reallocated: raw(document, REALLOCATED),
        pending: [raw(document, PENDING), raw(document, UNCORRECTABLE)].compact.max,
        wear: number(document.dig('endurance_used', 'current_percent') || nvme['percentage_used'] || life_used(document)),
        errors: number(document.dig('ata_smart_error_log', 'summary', 'count') || nvme['media_errors']),
        hours: number(document.dig('power_on_time', 'hours') || nvme['power_on_hours']),
        temperature: number(document.dig('temperature', 'current') || nvme['temperature']) }
    end

    def attribute(document, id) = document.dig('ata_smart_attributes', 'table')&.find { |row| row['id'] == id }

    # The raw value keeps minima and maxima in its upper bytes on some drives.
    def raw(document, id) = number(attribute(document, id)&.dig('raw', 'value'))&.then { |value| value & 0xFFFFFFFF }

    def life_used(document)
      row = LIFE.filter_map { |id| attribute(document, id) }.first
      row && (100 - row['value'].clamp(0, 100))
    end

    def number(value) = value.is_a?(Integer) && value >= 0 ? value : nil

    # @return [String, nil]
    def failing(document, numbers)
      return 'It says itself that it is failing' if document.dig('smart_status', 'passed') == false
      return 'Its own warning is on' if document.dig('nvme_smart_health_information_log', 'critical_warning').to_i.anybits?(CRITICAL)

      now = document.dig('ata_smart_attributes', 'table')&.find { |row| row['when_failed'] == 'now' }
      return "#{now['name'].to_s.tr('_', ' ')} is past its limit" if now

      "#{Units.count(numbers[:pending])} sectors cannot be read" if numbers[:pending].to_i >= LIMITS[:dying]
    end

    # @return [Array<Symbol>] the numbers that make it worn
    def worn(numbers)
      found = []
      found << :pending if numbers[:pending].to_i.positive?
      found.concat(%i[reallocated wear temperature].select { |name| numbers[name].to_i >= LIMITS[name] })
      found << :errors if numbers[:errors].to_i.positive?
      found
    end

    # The worst first; then what people ask for.
    def words(failing, worn, numbers)
      order = worn + (%i[reallocated wear hours temperature] - worn)
      [failing, *order.filter_map { |name| word(name, numbers[name]) }].compact.first(4).join(', ')
    end

    WORDS = {
      pending: ->(value) { "#{plural(value, 'sector')} cannot be read" if value.positive? },
      reallocated: ->(value) { plural(value, 'reallocated sector') },
      wear: ->(value) { "wear at #{value} %" },
      errors: ->(value) { "#{plural(value, 'error')} in its log" },
      hours: ->(value) { "#{Units.count(value)} h" },
      temperature: ->(value) { "#{value} °C" }
    }.freeze

    def word(name, value) = value && WORDS.fetch(name).call(value)
    def plural(value, word) = "#{Units.count(value)} #{word}#{'s' unless value == 1}"
    private_class_method :unknown, :numbers, :attribute, :raw, :life_used, :number, :failing, :worn, :words, :word
  end
end
