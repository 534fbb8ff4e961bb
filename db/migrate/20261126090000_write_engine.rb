# frozen_string_literal: true

# How a write is to be done, why it stopped and what was decided then, and what
# came of it.
class WriteEngine < ActiveRecord::Migration[7.2]
  def up
    add_column :dockets, :write_manner, :json
    change_table :writes do |t|
      t.json :manner, :trouble, :decisions, :summary
      t.string :port
      t.boolean :pause_asked, null: false, default: false
    end
  end

  def down = raise(ActiveRecord::IrreversibleMigration)
end
