# frozen_string_literal: true

# A chain of digests over a docket's events, and who a docket waits for.
class DocketsClose < ActiveRecord::Migration[7.2]
  def up
    add_column :events, :digest, :string, limit: 64
    add_reference :dockets, :waits_for, foreign_key: { to_table: :technicians }
    add_column :dockets, :waits_note, :string
    add_reference :dockets, :copied_from, foreign_key: { to_table: :dockets }
  end

  def down = raise(ActiveRecord::IrreversibleMigration)
end
