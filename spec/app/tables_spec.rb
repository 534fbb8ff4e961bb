# frozen_string_literal: true

require_relative 'app_helper'
require_relative '../../db/structure'

RSpec.describe Structure do
  it 'stands in db/structure.sql as the migrations leave it' do
    expect(described_class.dump).to eq(File.read(described_class::FILE)), 'write it anew: bundle exec ruby db/structure.rb'
  end
end
