# frozen_string_literal: true

# What is known of a computer that nobody has registered: read off a text, a
# drive or an image. Each fact says where it comes from.
class ComputerReader
  # field, value, source in words.
  Fact = Struct.new(:field, :value, :source, keyword_init: true)
  WORDS = { boot_entries: ->(value) { value.map { |one| one['name'] }.join(', ') }, boot_order: ->(value) { value.join(', ') },
            hardware: ->(value) { Words.count(value.lines.grep(/\A\S/).size, 'device') }, firmware: lambda(&:upcase) }.freeze

  # @param text [String] what programs print; see Evrel::Inventory
  # @return [Hash] given: fields of a computer; facts: each with its value in words and its source
  # @raise [Evrel::Damaged]
  def self.text(text)
    found = Evrel::Inventory.read(text).map do |fact|
      Fact.new(field: fact.field == :identity ? :system_identity : fact.field, value: fact.value, source: fact.source)
    end
    said(found)
  end

  # @param drive [Evrel::Bench::Drive] attached
  # @return [Hash] as #text, with the names of its systems
  def self.drive(drive)
    kind = drive.apart { |disk| Evrel::Startup::FirmwareKind.of(disk) }
    inside(AttachedDrives.contents(drive).systems, kind, 'the drive')
  end

  # @param image [Image]
  # @return [Hash] as #drive
  def self.image(image)
    own = image.document.computer
    said = %w[name maker model firmware system_identity].filter_map do |field|
      Fact.new(field: field.to_sym, value: own[field], source: 'what was written down with the image') if own[field].is_a?(String)
    end
    kind = SourceAccess.apart(image) { |opened| Evrel::Startup::FirmwareKind.of(opened.disk) }
    inside(image.document.systems, kind, 'the image', said)
  end

  def self.inside(systems, (kind, why), what, known = [])
    host = systems.filter_map { |system| system['host'] }.first
    found = [*known, host && Fact.new(field: :name, value: host, source: "the name of the system on #{what}"),
             Fact.new(field: :firmware, value: kind, source: "#{what}: #{why}")].compact
    said(found.uniq(&:field)).merge(systems: systems.filter_map { |system| system['name'] })
  end

  def self.said(facts)
    words = ->(fact) { WORDS.fetch(fact.field, :to_s.to_proc).call(fact.value) }
    { given: facts.to_h { |fact| [fact.field, fact.value] }, systems: [],
      facts: facts.map { |fact| { field: fact.field, value: words.call(fact), source: fact.source } } }
  end
  private_class_method :inside, :said
end
