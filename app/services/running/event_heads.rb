# frozen_string_literal: true

require 'fileutils'

# Once a day the digest of the last event of every docket goes into a file: cut
# off at its end, a chain fits still, and is found out by that.
module EventHeads
  FOLDER = 'event-heads'
  EVERY = 600 # seconds between two looks
  KEPT = 400  # files

  module_function

  # From now on, in a thread of its own.
  def watch
    Rounds.every(EVERY, now: true) { write }
  end

  # @return [String, nil] path of the file; nil where today's is there already
  def write(day = Date.today)
    path = Config.path(FOLDER, "#{day.iso8601}.csv")
    return if File.exist?(path)

    FileUtils.mkdir_p(File.dirname(path))
    File.open("#{path}.new", 'w', 0o600) do |file|
      file.write(SafeCsv.generate { |csv| rows.each { |row| csv << row } })
      file.fsync
    end
    File.rename("#{path}.new", path)
    Dir[Config.path(FOLDER, '*.csv')].reverse.drop(KEPT).each { |old| File.delete(old) }
    path
  end

  # @return [Array<Array>] docket, how many events it has, and the digest of the last
  def rows
    lasts = Event.where.not(docket_id: nil).group(:docket_id).pluck(:docket_id, Arel.sql('COUNT(*)'), Arel.sql('MAX(id)'))
    digests = Event.where(id: lasts.map(&:last)).pluck(:docket_id, :digest).to_h
    [%w[docket events digest], *lasts.sort.map { |docket, count, _| [format('D-%04d', docket), count, digests[docket]] }]
  end
  private_class_method :rows
end
