# frozen_string_literal: true

# Takes computers in from a table: says of each row what would become of it, and
# does that. A field that is empty leaves what is written down; a row that is
# refused leaves the others.
class ComputerImport
  SHOWN = 200 # rows of each kind that are told one by one
  TRUTH = { 'yes' => true, 'true' => true, '1' => true, 'on' => true, 'no' => false, 'false' => false, '0' => false, 'off' => false }.freeze
  BATCH = 500
  HINT = "the columns are #{ComputerTable::COLUMNS.join(', ')}, and own: … for others".freeze
  KINDS = %w[new changed same refused].freeze
  # what: one of KINDS; why: for what was refused; changes: field → [before, after].
  Row = Struct.new(:line, :name, :what, :why, :changes, :computer, keyword_init: true)

  # @param text [String]
  # @param by [Technician]
  # @raise [Evrel::Damaged] where it is no table of computers
  def initialize(text, by)
    @table = Evrel::Inventory::Table.new(text)
    @columns = @table.columns.to_h { |name| [name, ComputerTable.column(name)] }
    @by = by
    return if @columns.value?('name')

    there = Evrel::Units.list(@table.columns.first(12))
    raise Evrel::Damaged.new("there is no column called name: there is #{there}", where: 'line 1', hint: HINT)
  end

  # @return [Hash] counts (of each kind), unknown (columns that are left out) and rows, those that are refused first
  def told
    told = KINDS.reverse.flat_map { |what| rows.select { |row| row.what == what }.first(what == 'same' ? 0 : SHOWN) }
    { counts: KINDS.to_h { |what| [what, rows.count { |row| row.what == what }] }, unknown: unknown,
      rows: told.map { |row| view(row) } }
  end

  # Takes over what is new and what has changed; all of it, or nothing.
  # @return [Hash] as told
  def apply
    Computer.transaction do
      added = rows.select { |row| row.what == 'new' }
      changed = rows.select { |row| row.what == 'changed' }
      insert(added)
      changed.each { |row| row.computer.save!(validate: false) }
      trail(added, changed)
      belongings(changed.map(&:computer))
    end
    told
  end

  # @return [Array<Row>]
  def rows = @rows ||= judged

  private

  def known = @known ||= Computer.all.index_by { |one| key(one.name) }
  def identities = @identities ||= Computer.where.not(system_identity: nil).pluck(:system_identity, :name).to_h.transform_keys(&:downcase)
  def unknown = @columns.reject { |name, column| name.empty? || column }.keys

  # As the database holds names against each other: neither case nor accents count.
  def key(name) = name.unicode_normalize(:nfkd).gsub(/\p{Mn}/, '').downcase

  def judged
    seen = {}
    @table.rows.map do |row|
      row.values.transform_keys! { |name| @columns[name] }.transform_values! { |value| SafeCsv.plain(value) }
      name = row.values['name'].to_s
      before = seen[key(name)]
      seen[key(name)] ||= row.line
      before ? refused(row, "line #{before} has the same name") : judge(row)
    end
  end

  def judge(row)
    name = row.values['name'].to_s
    computer = known[key(name)] || Computer.new
    fresh = computer.new_record?
    computer.assign_attributes(fresh ? given(row, computer) : given(row, computer).except('name'))
    why = wrong(computer)
    return refused(row, why) if why

    what = if fresh then 'new'
           else computer.changed? ? 'changed' : 'same'
           end
    Row.new(line: row.line, name:, what:, changes: fresh ? {} : computer.changes, computer:)
  rescue Evrel::Refused => e
    refused(row, e.message)
  end

  def refused(row, why) = Row.new(line: row.line, name: row.values['name'].to_s, what: 'refused', why:, changes: {})

  def given(row, computer)
    said = row.values.compact_blank.except(nil)
    own, known = said.partition { |name, _| name.start_with?(ComputerTable::OWN) }.map(&:to_h)
    own.transform_keys! { |name| name.delete_prefix(ComputerTable::OWN).strip }
    known.to_h { |name, value| [name, typed(name, value)] }.merge(own.empty? ? {} : { 'free' => computer.free.to_h.merge(own) })
  end

  def typed(name, value)
    case name
    when 'firmware' then value.downcase
    when 'secure_boot' then TRUTH.fetch(value.downcase) { raise Evrel::Refused, 'secure_boot is yes or no' }
    when 'wish_days' then Integer(value, 10, exception: false) || raise(Evrel::Refused, 'wish_days is a number of days')
    else value
    end
  end

  # Names are held against each other here: asking the database for each of thousands would take minutes.
  def wrong(computer)
    computer.alone = true
    return computer.errors.full_messages.first unless computer.valid?

    identity = computer.system_identity&.downcase or return
    owner = identities[identity]
    return "its system identity is that of #{owner}" if owner && key(owner) != key(computer.name)

    identities[identity] = computer.name
    nil
  end

  def insert(rows)
    now = Time.now.utc
    rows.each_slice(BATCH) do |some|
      Computer.insert_all!(some.map { |row| row.computer.attributes.except('id').merge('created_at' => now, 'updated_at' => now) })
    end
    ids = Computer.where(name: rows.map(&:name)).pluck(:name, :id).to_h { |name, id| [key(name), id] }
    rows.each { |row| row.computer.id = ids.fetch(key(row.name)) }
  end

  # One line of the trail for each, and one event for all.
  def trail(added, changed)
    now = Time.now.utc.round(6)
    lines = added.map { |row| line('computer_added', "#{row.name} taken in from a table", row, now) } +
            changed.map { |row| line('computer_changed', "#{row.name}, from a table: #{words(row)}", row, now) }
    lines.each_slice(BATCH) { |some| Event.insert_all!(some) }
    counts = told[:counts]
    Event.add('computers_imported', "Computers taken in from a table: #{counts['new']} new, #{counts['changed']} changed", technician: @by)
  end

  def line(kind, text, row, now)
    { kind:, text: text.truncate(2000), technician_id: @by.id, data: { computer_id: row.computer.id }, created_at: now }
  end

  def words(row) = row.changes.map { |field, (from, to)| ComputerKeeper.told(field, from, to) }.join(', ')

  # Images that say whose they are go to whoever is new; what is found by the words of a computer is found by the new ones.
  def belongings(changed)
    owners = Computer.pluck(:name, :system_identity, :id).flat_map { |name, identity, id| [[name, id], [identity, id]] }.to_h
    Image.there.where(computer: nil).find_each do |image|
      owner = image.system_identity ? owners[image.system_identity] : owners[image.host]
      image.update!(computer_id: owner) && image.refresh_words if owner
    end
    changed.each { |one| ComputerKeeper.found_by_name(one) }
  end

  def view(row)
    { line: row.line, name: row.name, what: row.what, why: row.why, changes: row.changes.empty? ? nil : words(row) }
  end
end
