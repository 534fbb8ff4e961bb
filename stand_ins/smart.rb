# frozen_string_literal: true

module StandIns
  # SMART data as smartctl prints them with --json, for stand-in drives.
  module Smart
    module_function

    # @param reallocated, pending [Integer] sectors
    # @param wear [Integer, nil] percent of its life that is used; nil for a rotating disk
    # @param passed [Boolean] its own verdict
    # @return [Hash]
    def ata(hours:, temperature:, reallocated: 0, pending: 0, wear: nil, errors: 0, passed: true)
      rows = [row(5, 'Reallocated_Sector_Ct', 100, reallocated), row(9, 'Power_On_Hours', 95, hours),
              row(197, 'Current_Pending_Sector', 100, pending), row(198, 'Offline_Uncorrectable', 100, pending),
              row(194, 'Temperature_Celsius', 100 - temperature, temperature)]
      rows << row(231, 'SSD_Life_Left', 100 - wear, 100 - wear) if wear
      { 'json_format_version' => [1, 0], 'device' => { 'type' => 'sat', 'protocol' => 'ATA' }, 'smart_status' => { 'passed' => passed },
        'ata_smart_attributes' => { 'revision' => 16, 'table' => rows }, 'power_on_time' => { 'hours' => hours },
        'temperature' => { 'current' => temperature }, 'ata_smart_error_log' => { 'summary' => { 'revision' => 1, 'count' => errors } } }
    end

    # @return [Hash]
    def nvme(hours:, temperature:, wear:, errors: 0, warning: 0, passed: true)
      { 'json_format_version' => [1, 0], 'device' => { 'type' => 'nvme', 'protocol' => 'NVMe' }, 'smart_status' => { 'passed' => passed },
        'nvme_smart_health_information_log' => { 'critical_warning' => warning, 'temperature' => temperature, 'available_spare' => 100,
                                                 'available_spare_threshold' => 10, 'percentage_used' => wear, 'media_errors' => errors,
                                                 'power_on_hours' => hours },
        'power_on_time' => { 'hours' => hours }, 'temperature' => { 'current' => temperature } }
    end

    def row(id, name, value, raw)
      { 'id' => id, 'name' => name, 'value' => value.clamp(1, 253), 'worst' => value.clamp(1, 253), 'thresh' => 10, 'when_failed' => '',
        'raw' => { 'value' => raw, 'string' => raw.to_s } }
    end
    private_class_method :row
  end
end
