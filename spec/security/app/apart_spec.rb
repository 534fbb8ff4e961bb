# frozen_string_literal: true

require_relative '../../app/app_helper'

# Whoever answers pages reads no byte that others made: a copy of the process does, and what it calls is not seen here.
RSpec.describe 'What pages ask of images and drives' do
  before do
    sign_in
    seal_up_to('target')
    LayoutSources::CACHE.clear
    allow(Evrel::Image).to(receive(:at).and_wrap_original { |made, *given, **how| (opened << given[1]) && made.call(*given, **how) })
    allow(Evrel::Table).to(receive(:read).and_wrap_original { |made, disk, *more| (read << disk.class) && made.call(disk, *more) })
  end

  let(:opened) { [] }
  let(:read) { [] }

  it 'is read in processes of its own: to plan, to seal, to say what a write does, and to begin it' do
    call(:post, "/dockets/#{docket.id}/layout/plan", wish: { way: 'part', part: 1, over: 1 })
    expect(status).to eq(200)
    call(:post, "/dockets/#{docket.id}/layout/plan", wish: { way: 'grow' })
    seal('layout')
    expect(station('write')['view']['orders'].size).to be > 3
    call(:post, "/dockets/#{docket.id}/write")
    expect(status).to be_between(200, 202)
    # What the planning is given comes as bytes that were written anew.
    expect([opened, read.uniq - [Evrel::Disk::Scraps]]).to eq([[], []])
  end

  it 'is read there too where an image is chosen, or tells of a computer' do
    call(:delete, "/dockets/#{docket.id}/stations/image/seal")
    image = Image.find_by!(state: 'whole')
    ComputerReader.image(image)
    SourceAccess.apart(image) { |one| one.table && nil }
    expect(opened).to eq([])
  end
end
