# frozen_string_literal: true

# A drive is tried in the emulator as it is. One start of each at a time.
class TrialStartsOfDrives < ActiveRecord::Migration[7.2]
  def up
    add_reference :trial_starts, :drive, foreign_key: true
    one_at_a_time(%w[image_id write_id layout_try_id drive_id])
  end

  def down
    one_at_a_time(%w[image_id write_id layout_try_id])
    remove_reference :trial_starts, :drive, foreign_key: true
  end

  private

  def one_at_a_time(whats)
    remove_index :trial_starts, :open_key
    remove_column :trial_starts, :open_key
    of = "CONCAT_WS('/', IFNULL(docket_id, 0), kind, #{whats.map { |name| "IFNULL(#{name}, 0)" }.join(', ')})"
    execute "ALTER TABLE trial_starts ADD COLUMN open_key varchar(120) AS (IF(state IN ('queued', 'running'), #{of}, NULL)) STORED"
    add_index :trial_starts, :open_key, unique: true
  end
end
