# frozen_string_literal: true

module StandIns
  # What may be changed at a stand-in from outside, and how it must look.
  module Settings
    RANGES = %w[unreadable unwritable flips].freeze
    NUMBERS = %w[true_capacity wears_out_after hiccups dies_after disconnects_after bytes_per_second].freeze

    module_function

    # @param given [Hash] "read_only", "in_use", "faults"
    # @return [Hash] for drive.json
    # @raise [Evrel::Refused]
    def checked(given)
      unknown = given.keys - %w[read_only in_use faults]
      refuse("#{unknown.first} is nothing that can be changed", unknown.first) if unknown.any?
      refuse('nothing to change', 'body') if given.empty?
      refuse('read_only is true or false', 'read_only') if given.key?('read_only') && ![true, false].include?(given['read_only'])
      refuse('in_use is a text or nothing', 'in_use') unless given['in_use'].nil? || given['in_use'].is_a?(String)
      given.key?('faults') ? given.merge('faults' => faults(given['faults'])) : given
    end

    # @param given [Hash] "on", "boot_order"
    def computer(given)
      unknown = given.keys - %w[on boot_order]
      refuse("#{unknown.first} is nothing that can be changed", unknown.first) if unknown.any?
      refuse('on is true or false', 'on') if given.key?('on') && ![true, false].include?(given['on'])
      order = given['boot_order']
      unless order.nil? || (order.is_a?(Array) && order.all?(String) && order.size < 20)
        refuse('the boot order is a list of names',
               'boot_order')
      end
      given
    end

    def faults(given)
      refuse('faults are an object', 'faults') unless given.is_a?(Hash)
      given.each do |name, value|
        fine = if RANGES.include?(name) then ranges?(value)
               else NUMBERS.include?(name) && value.is_a?(Integer) && value.positive?
               end
        refuse("the fault #{name} is not written like one", name) unless fine
      end
    end

    def ranges?(value)
      value.is_a?(Array) && value.size <= 1000 && value.all? do |range|
        range.is_a?(Array) && range.size == 2 && range.all?(Integer) && range.first >= 0 && range.last.positive?
      end
    end

    def refuse(message, where) = raise(Evrel::Refused.new(message, where:))
    private_class_method :faults, :ranges?, :refuse
  end
end
