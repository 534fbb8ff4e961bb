# frozen_string_literal: true

# A docket restores a source: so far that was always an image.
class Sources < ActiveRecord::Migration[7.2]
  def up
    remove_index :seals, :image_id
    remove_column :seals, :image_id
    execute <<~SQL
      UPDATE seals SET decision = JSON_REMOVE(JSON_SET(decision, '$.source', JSON_OBJECT('kind', 'image', 'id',
        CAST(JSON_VALUE(decision, '$.image_id') AS INTEGER))), '$.image_id') WHERE station = 'image'
    SQL
    execute "ALTER TABLE seals ADD COLUMN source_key varchar(60) AS (IF(station = 'image', CONCAT(JSON_VALUE(decision, '$.source.kind'), " \
            "' ', JSON_VALUE(decision, '$.source.id')), NULL)) STORED"
    add_index :seals, :source_key
    add_column :writes, :source_type, :string, limit: 60
    rename_images
  end

  def down = raise(ActiveRecord::IrreversibleMigration)

  private

  def rename_images
    remove_foreign_key :writes, :images
    rename_column :writes, :image_id, :source_id
    execute "UPDATE writes SET source_type = 'Image'"
    change_column_null :writes, :source_type, false
    add_index :writes, %i[source_type source_id]
  end
end
