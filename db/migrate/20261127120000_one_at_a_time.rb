# frozen_string_literal: true

# What there can be only one of at a time is held by a key: a generated column
# that is empty for whatever is over.
class OneAtATime < ActiveRecord::Migration[7.2]
  # Table → columns: type, what it holds while it is open.
  OPEN = "state IN ('queued', 'running')"
  KEYS = {
    seals: { open_key: ['varchar(60)', 'broken_at IS NULL', "CONCAT(docket_id, '/', station)"] },
    writes: { living_docket_id: ['bigint', OPEN, 'docket_id'], living_drive_id: ['bigint', OPEN, 'drive_id'] },
    drive_tasks: { open_drive_id: ['bigint', OPEN, 'drive_id'] },
    layout_tries: { open_docket_id: ['bigint', OPEN, 'docket_id'] },
    trial_starts: { open_key: ['varchar(120)', OPEN, "CONCAT_WS('/', IFNULL(docket_id, 0), kind, IFNULL(image_id, 0), " \
                                                     'IFNULL(write_id, 0), IFNULL(layout_try_id, 0))'] },
    unplug_checks: { open_docket_id: ['bigint', "state IN ('waiting', 'away')", 'IFNULL(docket_id, 0)'] }
  }.freeze
  # How the older of two is ended that are open at the same time.
  ENDS = { seals: "broken_at = NOW(), broken_because = 'two were open'", trial_starts: "state = 'done', outcome = 'stopped'",
           unplug_checks: "state = 'void', reason = 'two were open'" }.freeze

  def up
    KEYS.each do |table, columns|
      columns.each { |name, (type, open, value)| key(table, name, type, open, value) }
    end
    answers
  end

  def down = raise(ActiveRecord::IrreversibleMigration)

  private

  def key(table, name, type, open, value)
    newest = "SELECT MAX(id) AS last, #{value} AS open_value FROM #{table} WHERE #{open} GROUP BY open_value"
    execute "UPDATE #{table} one JOIN (#{newest}) newest " \
            "ON #{value.gsub(/\b(docket_id|station|drive_id|kind|image_id|write_id|layout_try_id)\b/, 'one.\1')} = newest.open_value " \
            "SET #{ENDS.fetch(table, "state = 'failed'").split(', ').map { |set| "one.#{set}" }.join(', ')} " \
            "WHERE one.id < newest.last AND one.#{open}"
    execute "ALTER TABLE #{table} ADD COLUMN #{name} #{type} AS (IF(#{open}, #{value}, NULL)) STORED"
    add_index table, name, unique: true
  end

  # What was answered to a call that queues work, so that the same call twice is one.
  def answers
    create_table :answers do |t|
      t.references :technician, null: false, foreign_key: true
      t.string :key, null: false, limit: 80
      t.string :call, null: false, limit: 64
      t.integer :status
      t.text :body, size: :medium
      t.datetime :created_at, null: false, index: true
      t.index %i[technician_id key], unique: true
    end
  end
end
