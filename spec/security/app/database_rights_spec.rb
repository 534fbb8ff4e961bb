# frozen_string_literal: true

require_relative '../../app/app_helper'

RSpec.describe DatabaseRights do
  def done(text) = ActiveRecord::Base.connection.execute(text)

  it 'let the application add to the record, and by no way change it, or what guards it' do
    expect(Event.add('noted', 'A line')).to be_persisted
    ["UPDATE events SET text = 'x'", 'DELETE FROM events', 'TRUNCATE events', 'DROP TABLE events', 'DROP TRIGGER events_no_update',
     'ALTER TABLE events DROP COLUMN digest', 'CREATE TRIGGER other BEFORE INSERT ON events FOR EACH ROW SET NEW.text = 1',
     'REPLACE INTO events SELECT * FROM events', 'CREATE TABLE others (id INT)', 'DELETE FROM schema_migrations',
     "GRANT ALL ON events TO evrel@'127.0.0.1'", 'SELECT * FROM mysql.user', "SELECT 1 INTO OUTFILE '/tmp/x'"].each do |text|
      expect { done(text) }.to raise_error(ActiveRecord::StatementInvalid, /denied|not allowed|command/i), text
    end
  end

  it 'know every table' do
    tables = ActiveRecord::Base.connection.tables.reject { |name| name.start_with?('kept_') } - DatabaseRights::OF_MIGRATIONS
    expect(DatabaseRights.of_tables(tables).values.tally).to eq('INSERT' => 1, 'INSERT, UPDATE, DELETE' => tables.size - 1)
    told = done('SHOW GRANTS').to_a.flatten.grep(/`events`/)
    expect(told).to contain_exactly(match(/\AGRANT INSERT ON `\w+`\.`events` TO/))
  end
end
