# frozen_string_literal: true

require_relative 'browser_helper'

RSpec.describe 'From a docket to a started computer' do
  serial = 'TF48-2209-7Q4F'

  it 'goes the whole way with a real write and a real start' do
    sign_in_by_page
    expect(page).to be_axe_clean
    click_link 'TKT-03'

    expect(page).to have_css('h2', text: 'Take the computer in')
    expect(page).to have_css('[data-main]:not([disabled])')
    expect(page).to be_axe_clean
    send_keys(:enter)

    expect(page).to have_css('h2', text: 'Choose what to restore')
    click_button 'Check it'
    expect(page).to have_css('tr.on .chip', text: 'Whole')
    expect(page).to be_axe_clean
    click_button 'Seal this image'

    expect(page).to have_css('h2', text: 'Choose the disk to overwrite')
    expect(page).to have_no_text('7Q4F')
    find('.card', text: 'old-stock').click
    expect(page).to be_axe_clean
    fill_in 'Why it may be overwritten', with: 'Old stock, no longer needed'
    expect(page).to have_text('20 files')
    fill_in 'label', with: '7q1f'
    send_keys(:enter)
    expect(page).to have_css('[role=alert]', text: 'the drive in port 1')
    fill_in 'label', with: '7q4f'
    expect(page).to have_button('Seal port 3 as the target')
    send_keys(:enter)

    expect(page).to have_css('h2', text: 'Fit the image to the disk')
    expect(page).to have_text('Recovery moves 240.0 GB up')
    expect(page).to be_axe_clean
    send_keys(:enter)

    expect(page).to have_css('h2', text: 'Read the orders once more')
    expect(page).to have_text('label …7Q4F, is deleted')
    slow
    button = find('button', text: 'Hold to overwrite')
    button.click # a click alone begins nothing
    expect(docket.writes.count).to eq(0)
    hold(button)
    expect(page).to have_css('h2', text: 'Writing to port 3')
    expect(page).to have_css('.orders li.now', text: 'Write')
    visit current_path # closing the page changes nothing
    expect(page).to have_text('100 %', wait: 200)
    expect(page).to have_text('read back from the disk itself')
    expect(page).to be_axe_clean
    click_link 'Prove that it starts'

    expect(page).to have_css('li', text: 'The kernel finds its root')
    expect(page).to have_text('A twin is attached')
    click_button 'Try starting it'
    expect(page).to have_css('.chip', text: 'Seen to start', wait: 200)
    expect(page).to have_css('a.screen img')
    expect(page.evaluate_script("document.querySelector('a.screen img').naturalWidth")).to be > 600
    expect(page).to be_axe_clean
    click_button 'Sign off: TKT-03 starts'
    expect(page).to have_css('.head .chip', text: 'Signed off')

    judge(drive_path(serial), docket.write.source)
  end

  # Other tools say whether the drive is right.
  def judge(path, image)
    expect(run('sgdisk', '-v', path)).to include('No problems found')
    DocketLayout.new(docket).plan.parts.each do |place|
      expect(content?('e2fsck', '-fn', "#{path}?offset=#{place.start}")).to be(true) if place.part.kind == 'ext4'
      next if place.resized?

      ours = part_of(path, 'raw', place.start, place.size)
      theirs = part_of(File.join(image.shelf.path, image.path, 'disk.qcow2'), 'qcow2', place.part.start, place.part.size)
      expect(run('qemu-img', 'compare', ours, theirs)).to include('identical')
    end
  end

  it 'is moved through by keys alone, and shows what is plugged in at once' do
    sign_in_by_page
    send_keys('?')
    expect(page).to have_css('[role=dialog]', text: 'All keys')
    send_keys(:escape)
    expect(page).to have_no_css('[role=dialog]')

    send_keys('/')
    find('.top input[type=search]').send_keys('tkt', :enter)
    expect(page).to have_css('h1', text: 'TKT-03')
    expect(page).to have_css('h2', text: 'Take the computer in')
    { '2' => 'Choose what to restore', '5' => 'Write', '4' => 'Fit the image to the disk',
      '1' => 'Take the computer in' }.each do |key, title|
      send_keys(key)
      expect(page).to have_css('h2', text: title)
    end
    send_keys(:escape)
    expect(page).to have_css('h1', text: 'Dockets')

    click_link 'Bench'
    expect(page).to have_css('.port-card', text: 'TF48-2209-7Q1F')
    bench.pull('1')
    expect(page).to have_css('.port-card.bare[data-port="1"]')
    bench.plug('TF48-2209-7Q1F', '6')
    expect(page).to have_css('.port-card[data-port="6"]', text: 'TF48-2209-7Q1F')
    expect(page).to be_axe_clean
    click_link 'Images'
    expect(page).to have_text('2 on 1 shelf')
    expect(page).to be_axe_clean
    click_button 'I. Hauge'
    click_button 'dark'
    send_keys(:escape)
    expect(page).to have_css('html.dark')
    expect(page).to be_axe_clean
    visit "/dockets/#{docket.id}/image"
    expect(page).to have_css('tr.on')
    expect(page).to be_axe_clean
  end

  it 'begins to write when Enter is held, not when it is pressed' do
    sign_in
    seal_up_to('layout')
    sign_in_by_page
    visit "/dockets/#{docket.id}/write"
    expect(page).to have_css('.orders li', minimum: 7)
    hold_enter(0.3)
    sleep 1
    expect(docket.writes.count).to eq(0)
    slow
    hold_enter(1.4)
    expect(page).to have_css('h2', text: 'Writing to port 3')
    click_button 'Stop at a safe point'
    expect(page).to have_css('h2', text: 'The write has stopped')
    expect(page).to have_css('.fact', text: 'Stopped as asked')
    hold(find('button', text: 'Hold to go on'))
    expect(page).to have_text('read back from the disk itself', wait: 200)
  end

  it 'goes on by itself after the worker was killed in the middle of a write' do
    sign_in
    seal_up_to('layout')
    slow
    call(:post, "/dockets/#{docket.id}/write")
    eventually { Write.last.progress.to_h['written'].to_i > 4_000_000 }
    Process.kill(:KILL, -@worker)
    Process.wait(@worker)
    expect(Evrel::Disk::File.open(drive_path(serial)) { |disk| Evrel::Table.read(disk) }).to be_nil
    @worker = start_worker
    eventually(200) { %w[done failed].include?(Write.last.state) }
    expect(Write.last).to have_attributes(state: 'done', verified: true)
    judge(drive_path(serial), Write.last.image)
  end
end
