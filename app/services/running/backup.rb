# frozen_string_literal: true

require 'fileutils'
require 'json'
require 'openssl'
require 'tmpdir'

# All that Evrel would miss, in one archive: the tables, what opens shelves and
# signs sessions, journals, pictures. Images and shelves are not in it: they
# stand for themselves. What is only kept to save time (unpacked disks, working
# files) is not either.
class Backup
  FOLDERS = %w[secrets journals pictures drivers event-heads].freeze
  FILES = %w[session-secret event-key].freeze
  SUMS = 'SHA256SUMS'
  VERSION = 'schema-version'
  # Of no use elsewhere: who works just now, and what waits for a worker.
  LEFT_OUT = %w[ar_internal_metadata schema_migrations delayed_jobs owners presences sign_ins sign_in_failures].freeze
  BATCH = 2000

  # @param file [String] a .tar.zst that is not there yet
  # @return [Hash] tables (name → rows), files, bytes
  # @raise [Evrel::Refused, Evrel::Mismatch]
  def self.write(file)
    raise Evrel::Refused.new("#{file} is there already", where: file, hint: 'choose another name') if File.exist?(file)

    Dir.mktmpdir('evrel-backup', File.dirname(File.expand_path(file))) do |folder|
      told = new(folder).take
      pack(folder, "#{file}.part")
      Dir.mktmpdir('evrel-backup', File.dirname(File.expand_path(file))) { |again| new(again).unpack("#{file}.part").check }
      File.rename("#{file}.part", file)
      told.merge(bytes: File.size(file))
    end
  ensure
    FileUtils.rm_f("#{file}.part")
  end

  # @param file [String] as `write` made it
  # @return [Hash] tables and files, as `write` tells them
  # @raise [Evrel::Refused] where somebody works here already, or it is of another version
  # @raise [Evrel::Mismatch] where the archive is not whole: nothing is changed then
  def self.restore(file)
    if Technician.exists?
      raise Evrel::Refused.new('somebody works here already', where: 'database', hint: 'begin an empty one: bin/start --empty')
    end

    Dir.mktmpdir('evrel-backup') do |folder|
      backup = new(folder).unpack(file)
      backup.check
      backup.put_back
    end
  end

  def self.pack(folder, file)
    made = Evrel::Tool.system('tar', '--zstd', '-C', folder, '-cf', file, '.')
    raise Evrel::DoesNotFit.new('the archive could not be written', where: file, hint: 'make room there') unless made.success?

    File.open(file, &:fsync)
  end
  private_class_method :pack

  # @param folder [String] of its own
  def initialize(folder)
    @folder = folder
  end

  # @return [Hash] what was taken
  def take
    FileUtils.mkdir_p(within('tables'))
    rows = connection.transaction(isolation: :repeatable_read) { tables.to_h { |table| [table, dump(table)] } }
    File.write(within(VERSION), version)
    FOLDERS.each { |name| FileUtils.cp_r(Config.path(name), within(name)) if File.directory?(Config.path(name)) }
    FILES.each { |name| FileUtils.cp(Config.path(name), within(name)) if File.file?(Config.path(name)) }
    File.write(within(SUMS), files.map { |name| "#{sum(name)}  #{name}\n" }.join)
    { tables: rows, files: files.size }
  end

  # @return [Backup]
  def unpack(file)
    done = Evrel::Tool.run('tar', '--zstd', '--no-same-owner', '-C', @folder, '-xf', file, read: [file], write: [@folder])
    raise Evrel::Mismatch.new('it is no backup, or is cut off', where: file) unless done.success?

    self
  end

  # @raise [Evrel::Mismatch, Evrel::Refused]
  def check
    wrong = not_as_written
    raise Evrel::Mismatch.new("#{wrong} is not as it was written", where: 'backup') if wrong
    return if File.read(within(VERSION)) == version

    raise Evrel::Refused.new("it is of the tables of #{File.read(within(VERSION))}, here they are those of #{version}",
                             where: 'backup', hint: 'restore it with the Evrel that made it, and update that')
  end

  # @return [Hash] what came back
  def put_back
    rows = connection.transaction do
      connection.execute('SET FOREIGN_KEY_CHECKS = 0')
      tables.to_h { |table| [table, load(table)] }
    ensure
      connection.execute('SET FOREIGN_KEY_CHECKS = 1')
    end
    FOLDERS.each { |name| FileUtils.cp_r(within(name), Config.var, remove_destination: true) if File.directory?(within(name)) }
    FILES.each { |name| FileUtils.cp(within(name), Config.path(name)) if File.file?(within(name)) }
    { tables: rows, files: files.size }
  end

  private

  # @return [String, nil] the first file that is missing, is one too many, is another, or is a link
  def not_as_written
    return SUMS unless File.file?(within(SUMS)) && !File.empty?(within(SUMS))

    told = File.readlines(within(SUMS), chomp: true).to_h { |line| line.split('  ', 2).reverse }
    (files + told.keys).uniq.find do |name|
      !told.key?(name) || File.symlink?(within(name)) || !File.file?(within(name)) || sum(name) != told[name]
    end
  end

  def within(name) = File.join(@folder, name)
  def connection = ActiveRecord::Base.connection
  def version = connection.select_value('SELECT MAX(version) FROM schema_migrations')
  def tables = connection.tables.sort.reject { |table| LEFT_OUT.include?(table) || table.start_with?('kept_') }
  def columns(table) = connection.columns(table).reject(&:virtual?).map(&:name)
  def quoted(names) = names.map { |name| connection.quote_column_name(name) }.join(', ')

  def dump(table)
    names = columns(table)
    last = count = 0
    File.open(within("tables/#{table}.jsonl"), 'w') do |out|
      loop do
        rows = connection.select_rows("SELECT #{quoted(names)} FROM #{table} WHERE id > #{Integer(last)} ORDER BY id LIMIT #{BATCH}")
        rows.each { |row| out.puts(JSON.generate(row.map { |value| plain(value) })) }
        count += rows.size
        break if rows.size < BATCH

        last = rows.last[names.index('id')]
      end
    end
    count
  end

  def plain(value) = value.respond_to?(:strftime) ? value.strftime('%F %T.%6N') : value

  def load(table)
    names = columns(table)
    connection.execute("DELETE FROM #{table}") unless table == 'events' # nothing is in it yet, and nothing ever leaves it
    File.foreach(within("tables/#{table}.jsonl")).each_slice(BATCH).sum do |lines|
      values = lines.map { |line| "(#{JSON.parse(line).map { |value| connection.quote(value) }.join(', ')})" }
      connection.execute("INSERT INTO #{table} (#{quoted(names)}) VALUES #{values.join(', ')}")
      lines.size
    end
  end

  def files = Dir.glob('**/*', base: @folder).select { |name| File.file?(within(name)) }.sort - [SUMS]
  def sum(name) = OpenSSL::Digest::SHA256.file(within(name)).hexdigest
end
