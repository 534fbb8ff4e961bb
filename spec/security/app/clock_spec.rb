# frozen_string_literal: true

require_relative '../../app/app_helper'
require 'active_support/testing/time_helpers'

# A clock that is set wrong by days, in either direction, in the middle of work.
RSpec.describe Lately do
  include ActiveSupport::Testing::TimeHelpers

  before { sign_in }
  after { travel_back }

  let(:ina) { Technician.find_by!(sign_in: 'ina') }

  it 'is not what lies ahead of the clock' do
    expect(described_class.at?(10.seconds.ago, 60)).to be(true)
    expect(described_class.at?(2.minutes.ago, 60)).to be(false)
    expect(described_class.at?(3.days.from_now, 60)).to be(false)
  end

  it 'lets no proof hold again, and no sign-in' do
    check = UnplugCheck.create!(drive: drive(Requests::REPLACEMENT), technician: ina, port: '3', state: 'passed', from_move: 0,
                                ends_at: 90.seconds.from_now, bench: Config.bench)
    expect(check).to be_good
    travel_to 3.days.ago
    expect(check).not_to be_good
    call(:get, '/bench')
    expect(status).to eq(401)
  end

  it 'locks nobody out until the clock has caught up' do
    docket = Docket.find_by!(cause: 'drive_failed')
    5.times { SignInFailure.note('ina', '127.0.0.1') }
    3.times { Event.add('label_wrong', 'A wrong label was typed', docket:, technician: ina) }
    locked = -> { [SignInFailure.too_many?('ina', '127.0.0.1'), !LabelProof.new([], docket:).locked_until.nil?] }
    expect(locked.call).to eq([true, true])
    travel_to 3.days.ago
    expect(locked.call).to eq([false, false])
  end

  it 'keeps what waits from waiting for days' do
    Shelf.first.enqueue
    travel_to 3.days.ago
    TakeUp.new.check
    work_off
    expect(Delayed::Job.count).to eq(0)
  end

  it 'goes on with a write, tells how far it is, and learns nothing false from what it took' do
    seal_up_to('layout')
    allow(WriteRun).to receive(:every).and_return(0.0)
    days = [20.days, -20.days].cycle
    told = []
    allow_any_instance_of(Telling).to receive(:call).and_wrap_original do |original, **given, &block|
      original.call(**given, &block).tap do
        told << docket.write.reload.progress.to_h['run_seconds']
        travel_back
        travel_to(Time.now + days.next)
      end
    end
    call(:post, "/dockets/#{docket.id}/write")
    work_off
    travel_back
    expect(docket.reload.write).to have_attributes(state: 'done', verified: true)
    expect(told.compact).to all(be_between(0, 120))
    expect(ExpectedTime.new(docket.source, docket.target, '3').past.map(&:seconds)).to all(be_between(0, 120))
  end
end
