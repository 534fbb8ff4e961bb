# frozen_string_literal: true

# What each may do, how somebody new gets in, and who is signed in where.
class People < ActiveRecord::Migration[7.2]
  def change
    change_table :technicians, bulk: true do |t|
      t.string :role, limit: 20, null: false, default: 'technician'
      t.datetime :disabled_at
      t.json :preferences
      t.string :link_digest, limit: 64, index: { unique: true }
      t.datetime :link_until
    end
    up_only { execute "UPDATE technicians SET role = 'lead' WHERE `lead`" }
    remove_column :technicians, :lead, :boolean, null: false, default: false
    change_column_null :technicians, :password_digest, true
    create_table :sign_ins do |t|
      t.references :technician, null: false, foreign_key: true
      t.string :digest, limit: 64, null: false, index: { unique: true }
      t.string :peer, limit: 60
      t.string :agent, limit: 200
      t.datetime :created_at, null: false
      t.datetime :active_at, null: false
    end
    create_table :sign_in_failures do |t|
      t.string :account, limit: 64, null: false
      t.string :peer, limit: 60
      t.datetime :created_at, null: false, index: true
    end
  end
end
