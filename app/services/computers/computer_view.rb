# frozen_string_literal: true

# All that is written down of a computer.
module ComputerView
  TRAIL = 50

  module_function

  # @return [Hash]
  def of(computer)
    { id: computer.id, **computer.slice(*Computer::TEXTS.keys, 'firmware', 'secure_boot', 'wish_days', 'keep_newest', 'keep_monthly',
                                        'keep_started').symbolize_keys,
      free: computer.free || {}, hardware: computer.hardware, boot_entries: computer.boot_entries || [],
      boot_order: computer.boot_order || [], aside: !computer.retired_at.nil?, photos: photos(computer),
      trail: ComputerKeeper.trail(computer).limit(TRAIL).map { |event| line(event) } }
  end

  def photos(computer)
    computer.photos.order(:id).includes(:technician).map do |one|
      { id: one.id, of: one.of, by: one.technician.short_name, at: one.created_at.iso8601, here: one.here?,
        path: "/api/computers/#{computer.id}/photos/#{one.id}" }
    end
  end

  def line(event) = { text: event.text, by: event.technician&.short_name, at: event.created_at.iso8601 }
end
