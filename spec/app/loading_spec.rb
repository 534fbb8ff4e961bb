# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'Loading' do
  it 'leaves nothing that threads or copies would have to load' do
    files = Dir[File.join(Config::ROOT, 'app', '{shared,models,flows,jobs,services/*}', '*.rb')]
    expect(files.size).to be > 100
    expect(files.map { |path| File.basename(path, '.rb').camelize }.select { |name| Object.autoload?(name) }).to be_empty
  end

  it 'is the first that web server and workers do, and is done before the warden listens' do
    first = %w[config.ru app/worker.rb].map { |name| File.readlines(File.join(Config::ROOT, name)).grep_v(/\A#|\A\s*\z|\Arequire/).first }
    expect(first).to all(start_with('LOAD_ALL.call('))
    expect(%w[config.ru app/worker.rb].map { |name| File.read(File.join(Config::ROOT, name)) }).to all(match(/^LOAD_ALL.*\nLOAD_TABLES/))
    expect(ActiveRecord::Base.descendants.reject { |model| model.abstract_class? || model.send(:schema_loaded?) }).to be_empty
    expect(File.read(File.join(Config::ROOT, 'bin/warden'))).to match(/^Evrel\.load_all\b.*^server\.run/m)
  end
end
