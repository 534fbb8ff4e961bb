# frozen_string_literal: true

# A write refers to the seal of its layout, a job to the work that it does, and
# orders and what became of them say of which kind they are.
class MeaningInColumns < ActiveRecord::Migration[7.2]
  KINDS = { 'part' => 'part', 'prepare' => 'prepare', 'grow' => 'prepare', 'check' => 'check', 'clear' => 'clear',
            'read-back' => 'read_back', 'table' => 'table' }.freeze

  def up
    add_reference :writes, :seal, foreign_key: true
    execute <<~SQL
      UPDATE writes SET seal_id = (SELECT MAX(seals.id) FROM seals WHERE seals.docket_id = writes.docket_id AND seals.station = 'layout'
        AND seals.created_at <= writes.created_at)
    SQL
    add_column :delayed_jobs, :work, :string, limit: 120
    add_index :delayed_jobs, :work
    works
    kinds
  end

  def down = raise(ActiveRecord::IrreversibleMigration)

  private

  WORKS = { 'WriteJob' => 'Write', 'TrialJob' => 'TrialStart', 'LayoutTryJob' => 'LayoutTry', 'DriveTaskJob' => 'DriveTask',
            'CheckJob' => 'Image', 'LookJob' => 'Shelf' }.freeze
  private_constant :WORKS

  # A job's own text names its class and, last, the number of its row.
  def works
    select_all('SELECT id, handler FROM delayed_jobs').each do |row|
      name, number = row['handler'].match(/struct:(\w+)\s.*?_id: (\d+)/m)&.captures
      execute "UPDATE delayed_jobs SET work = #{quote("#{WORKS[name]} #{number}")} WHERE id = #{row['id']}" if WORKS[name]
    end
  end

  def kinds
    select_all('SELECT id, orders, outcomes FROM writes').each do |row|
      orders, outcomes = row.values_at('orders', 'outcomes').map { |text| text && JSON.parse(text) }
      [*orders, *outcomes].each { |one| told(one) }
      execute "UPDATE writes SET orders = #{quote(orders&.to_json)}, outcomes = #{quote(outcomes&.to_json)} WHERE id = #{row['id']}"
    end
  end

  def told(one)
    name, number = one['id'].match(/\A(.*?)(?:-(\d+))?\z/).captures
    one['kind'] = KINDS.fetch(name, name)
    one['piece'] = number.to_i - 1 if number && one.key?('title')
  end
end
