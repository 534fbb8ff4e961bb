# frozen_string_literal: true

# Images that a passphrase opens, and when somebody was last seen to open each:
# never what opens them.
class LockedImages < ActiveRecord::Migration[7.2]
  def change
    change_table :images, bulk: true do |t|
      t.boolean :locked, null: false, default: false
      t.datetime :opened_at
    end
  end
end
