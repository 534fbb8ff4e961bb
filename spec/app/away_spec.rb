# frozen_string_literal: true

require_relative 'app_helper'

# What is pulled at the wrong moment.
RSpec.describe 'A drive that is away' do
  before { sign_in }

  def message = JSON.parse(last_response.body)['message']

  it 'leaves its images in the catalogue, and says where it was last' do
    bench.pull('2')
    shelf = call(:get, '/shelves').first
    expect(shelf).to include('reachable' => false, 'port' => nil, 'last_port' => '2', 'images' => 2)
    expect(call(:get, '/images')).to include('total' => 2, 'images' => all(include('reachable' => false)))
    seal('computer')
    shown = station('image')['view']['images'].first
    expect(shown).to include('reachable' => false, 'why' => 'Newest image, from before the trouble; it has to be fetched')
    expect(shown['whereabouts']).to match(/\AOn drive …C02M, last seen .* on port 2\z/)
    seal('image', image_id: image.id, reason: 'r')
    expect([status, message]).to eq([409, 'shelf Holm is not attached'])
    call(:post, "/images/#{image.id}/check")
    expect(status).to eq(409)
    call(:post, "/shelves/#{Shelf.first.id}/look")
    expect(status).to eq(409)
  end

  it 'does not make an image damaged when it is pulled before the check' do
    call(:post, "/images/#{image.id}/check")
    folder = Shelf.first.path
    File.rename(folder, "#{folder}-away")
    work_off
    expect(image.reload.state).to eq('unchecked')
    expect(Event.last.text).to include('could not be checked')
  end

  it 'stops a write that has no shelf to read from, with nothing written' do
    seal_up_to('layout')
    call(:post, "/dockets/#{docket.id}/write")
    path = AttachedDrives.by_key(Requests::REPLACEMENT).local_path
    before = File.stat(path).mtime
    File.rename(Shelf.first.path, "#{Shelf.first.path}-away")
    work_off
    expect(Write.last).to have_attributes(state: 'failed', error: /Holm is not attached/)
    expect(File.stat(path).mtime).to eq(before)
  end

  it 'ends a trial start of a disk that was pulled, with the reason' do
    seal_up_to('layout')
    call(:post, "/dockets/#{docket.id}/write")
    work_off
    bench.pull('3')
    call(:post, "/dockets/#{docket.id}/trial")
    work_off
    expect(TrialStart.last).to have_attributes(state: 'done', outcome: 'failed', message: /not attached/)
    call(:post, "/dockets/#{docket.id}/chain")
    expect([status, message]).to match([409, /not attached/])
  end
end
