# frozen_string_literal: true

# What dockets are searched by, and what lists are ordered by.
class AtAnySize < ActiveRecord::Migration[7.2]
  def up
    add_column :dockets, :words, :text
    add_index :dockets, :closed_at
    # NULL while it is open.
    execute "ALTER TABLE seals ADD COLUMN image_id bigint AS (IF(station = 'image', JSON_VALUE(decision, '$.image_id'), NULL)) STORED"
    add_index :seals, :image_id
    add_index :seals, :created_at
    execute <<~SQL
      UPDATE dockets JOIN computers ON computers.id = dockets.computer_id
      SET words = LOWER(CONCAT_WS(' ', CONCAT('D-', LPAD(dockets.id, 4, '0')), computers.name, computers.place, REPLACE(cause, '_', ' '),
        dockets.note, (SELECT GROUP_CONCAT(DISTINCT technicians.name SEPARATOR ' ') FROM seals JOIN technicians
          ON technicians.id = seals.technician_id WHERE seals.docket_id = dockets.id AND seals.broken_at IS NULL)))
    SQL
  end

  def down = raise(ActiveRecord::IrreversibleMigration)
end
