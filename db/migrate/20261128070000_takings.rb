# frozen_string_literal: true

# Images that are taken of drives: each a piece of work of its own, which can be
# paused and goes on where it was. What was a task of a drive before becomes one.
class Takings < ActiveRecord::Migration[7.2]
  def up
    create_table(:takings) { |t| columns(t) }
    execute("ALTER TABLE takings ADD COLUMN open_drive_id BIGINT AS (IF(state IN ('queued', 'running'), drive_id, NULL)) STORED")
    add_index :takings, :open_drive_id, unique: true
    take_over
  end

  def down = drop_table(:takings)

  private

  def columns(table)
    %i[drive technician].each { |name| table.references name, null: false, foreign_key: true }
    %i[docket shelf image].each { |name| table.references name, foreign_key: true }
    table.references :onto, foreign_key: { to_table: :images }
    table.string :bench, null: false, limit: 60
    table.string :port, null: false, limit: 60
    table.string :state, null: false, default: 'queued', limit: 20
    table.string :folder, null: false, limit: 300
    table.string :note, limit: 200
    table.string :level, null: false, default: 'balanced', limit: 20
    table.string :image_uid, limit: 64
    table.string :fingerprint
    table.string :away, limit: 20
    table.text :error
    %i[parts on_drive progress speeds expected summary].each { |name| table.json name }
    %i[temporary checked].each { |name| table.boolean name, null: false, default: true }
    %i[salvage locked stop_asked pause_asked enough_asked].each { |name| table.boolean name, null: false, default: false }
    table.integer :retries, null: false, default: 1
    table.integer :minutes
    %i[started_at finished_at].each { |name| table.datetime name }
    table.timestamps
  end

  def take_over
    execute(<<~SQL)
      INSERT INTO takings (drive_id, technician_id, docket_id, shelf_id, bench, port, state, folder, note, fingerprint, error, summary,
                           checked, started_at, finished_at, created_at, updated_at)
      SELECT drive_id, technician_id, docket_id, shelf_id, bench, COALESCE(JSON_VALUE(params, '$.port'), ''),
             IF(state IN ('queued', 'running'), 'stopped', state), COALESCE(JSON_VALUE(params, '$.name'), ''),
             JSON_VALUE(params, '$.note'), fingerprint, error, result, 0, created_at, finished_at, created_at, updated_at
      FROM drive_tasks WHERE kind = 'image'
    SQL
    execute("DELETE FROM drive_tasks WHERE kind = 'image'")
  end
end
