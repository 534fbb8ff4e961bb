# frozen_string_literal: true

require_relative 'browser_helper'
require_relative '../app/desk'

RSpec.describe 'People' do
  let(:good) { 'nine lamps over water' }

  def leave
    find('.who .name').click
    click_button 'Sign out'
    expect(page).to have_button('Sign in')
  end

  it 'are added by a lead, choose their password by a link, and are shut out while they look' do
    sign_in_by_page
    click_link 'People'
    click_button 'Add somebody…'
    fill_in 'Name', with: 'Tove Lind'
    expect(page).to have_field('Sign-in', with: 'tove')
    choose 'Reader'
    click_button 'Add, and make the link'
    expect(page).to have_css('tr', text: 'has a link, and no password yet')
    expect(page).to be_axe_clean
    link = URI(find_field('The link').value)
    leave

    visit "#{link.path}##{link.fragment}"
    fill_in 'New password', with: 'password1234'
    click_button 'Choose it, and come in'
    expect(page).to have_css('[role=alert]', text: 'among the first that somebody would try')
    fill_in 'New password', with: good
    click_button 'Choose it, and come in'
    expect(page).to have_css('h1', text: 'Dockets')
    closed_doors

    Desk.new('ina').call(:delete, "/people/#{Technician.find_by!(sign_in: 'tove').id}/sign-ins")
    expect(page).to have_button('Sign in') # by itself
    fill_in 'Sign-in', with: 'tove'
    fill_in 'Password', with: good
    click_button 'Sign in'
    expect(page).to have_css('h1', text: 'Images') # where they were
  end

  # What a reader meets: it rests, and says who may.
  def closed_doors
    expect(page).to have_css('.chip', text: 'Reader').and have_no_link('People')
    expect(find_button('Open a docket…', disabled: true)[:title]).to eq('Only a technician may do that')
    visit "/dockets/#{docket.id}/computer"
    expect(page).to have_button('Seal the computer', disabled: true)
    visit '/people'
    expect(page).to have_css('h1', text: 'Dockets')
    click_link 'Images'
    expect(find_button('Add a shelf…', disabled: true)[:title]).to eq('Only a lead may do that')
    expect(page).to have_button('Try starting it', disabled: true)
  end

  it 'have times as they like them, in every browser' do
    sign_in_by_page('kaja')
    find('.who .name').click
    click_link 'Password and wishes'
    choose '2031-03-02'
    choose '6:30 pm'
    choose 'dark'
    expect(page).to have_text('2031-03-02 6:30 pm').and have_css('html.dark')
    expect(page).to be_axe_clean
    leave
    sign_in_by_page('kaja')
    visit '/me'
    expect(page).to have_checked_field('6:30 pm').and have_css('html.dark')
    choose 'light'
    expect(page).to have_no_css('html.dark')
    fill_in 'Password until now', with: 'something else'
    fill_in 'New password', with: good
    click_button 'Change it'
    expect(page).to have_css('[role=alert]', text: 'not the password until now')
    fill_in 'Password until now', with: Demo.password
    click_button 'Change it'
    expect(page).to have_text('Changed.')
  end

  it 'begin with the one who reads the code' do
    DemoState.without_keys { %w[technicians dockets sign_ins].each { |table| DemoState.sql("DELETE FROM #{table}") } }
    code = FirstLead.code
    visit '/dockets'
    expect(page).to have_text('Nobody works here yet')
    expect(page).to be_axe_clean
    fill_in 'Code', with: 'some-thing-else'
    fill_in 'Your name', with: 'Tove Lind'
    fill_in 'Sign-in', with: 'tove'
    fill_in 'New password', with: good
    click_button 'Begin'
    expect(page).to have_css('[role=alert]', text: 'not the code in the terminal')
    fill_in 'Code', with: code
    click_button 'Begin'
    expect(page).to have_css('h1', text: 'Dockets')
    expect(Technician.pluck(:name, :role)).to eq([['Tove Lind', 'lead']])
  end
end
