# frozen_string_literal: true

require 'csv'

# All that is written down of computers, as a table that can be changed with
# other programs and taken in again.
module ComputerTable
  # In this order; "own: …" is a field of one's own.
  COLUMNS = [*Computer::TEXTS.keys, 'firmware', 'secure_boot', 'wish_days'].freeze
  OWN = 'own:'

  module_function

  # @param name [String] as a table has it
  # @return [String, nil] of which column it is the name, whatever its case
  def column(name)
    return "#{OWN} #{name[OWN.length..].strip}" if name.downcase.start_with?(OWN)

    name.downcase.tr(' ', '_').then { |known| known if COLUMNS.include?(known) }
  end

  # @return [String] CSV of all that are in use, by name
  def csv
    computers = Computer.in_use.order(:name).to_a
    own = computers.flat_map { |one| one.free.to_h.keys }.uniq.sort
    SafeCsv.generate do |csv|
      csv << [*COLUMNS, *own.map { |name| "#{OWN} #{name}" }]
      computers.each do |one|
        csv << [*one.slice(*COLUMNS).merge('secure_boot' => one.secure_boot ? 'yes' : 'no').values, *one.free.to_h.values_at(*own)]
      end
    end
  end
end
