# frozen_string_literal: true

# The driver packs of this bench: a folder each, in var/drivers or where
# EVREL_DRIVERS says.
class DriverShelf
  # @return [String]
  def self.folder = ENV.fetch('EVREL_DRIVERS') { Config.path('drivers') }

  # @param computer [Evrel::Startup::Computer]
  def initialize(computer)
    @computer = computer
  end

  # @return [Array<Hash>] packs that match the computer's hardware, the best first
  def list
    matches.map do |match|
      pack = match.pack
      { name: pack.name, provider: pack.provider, kind: pack.kind, version: pack.version, dated: pack.dated&.to_date&.iso8601,
        device: match.device.word, identifier: match.identifier }
    end
  end

  # @param names [Array<String>]
  # @return [Array<String>] their folders
  # @raise [Evrel::Refused] where one does not match, or none is named
  def folders(names)
    known = matches.to_h { |match| [match.pack.name, match.pack.folder] }
    strange = names.find { |name| !known.key?(name) }
    raise Evrel::Refused.new("no pack “#{strange}” matches this computer", where: 'packs', hint: 'list them again') if strange
    raise Evrel::Refused.new('no pack is chosen', where: 'packs') if names.empty?

    known.values_at(*names.uniq)
  end

  private

  def matches
    return [] unless @computer.hardware && File.directory?(DriverShelf.folder)

    @matches ||= Evrel::Startup::DriverPack.matching(DriverShelf.folder, @computer.hardware)
  end
end
