# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'A write that meets trouble' do
  before { sign_in }

  let(:path) { AttachedDrives.by_key(Requests::REPLACEMENT).local_path }
  let(:qcow2) { File.join(image_path, 'disk.qcow2') }

  let(:shelf) { 'OS1T-88C02M' }

  def write = call(:post, "/dockets/#{docket.id}/write")
  def decide(choice) = call(:post, "/dockets/#{docket.id}/write/decide", choice:)
  def shown = station('write')['view']['write']
  def fault(**faults) = bench.change_drive(Requests::REPLACEMENT) { |about| about['faults'] = faults.transform_keys(&:to_s) }
  def table = Evrel::Disk::File.open(path) { |disk| Evrel::Table.read(disk) }
  def spoil = File.binwrite(qcow2, (File.binread(qcow2, 1, 9_000_000).ord ^ 0xFF).chr, 9_000_000)
  def fact(id) = station('write')['facts'].find { |one| one['id'] == id }

  def stopped_at_a_damaged_cluster
    seal_as_in_image
    yield if block_given?
    spoil
    write
    work_off
    shown['trouble']
  end

  it 'is begun anew, with a target that is proved anew, where nothing on the drive shows that it was written to' do
    stopped_at_a_damaged_cluster
    spoil # it is whole again
    File.open(path, 'r+b') { |io| [0, io.size - 1_048_576].each { |at| io.pwrite("\0" * 1_048_576, at) } }
    Evrel::Disk::File.open(path, writable: true) { |disk| disk.extents.to_a.each { |at, length| disk.discard(at, length) } }
    write
    work_off
    expect(docket.reload.sealed?('target')).to be(false)
    expect(Event.where(kind: 'seal_broken').last.text).to match(/nothing on the drive shows/)
    expect(table).to be_nil
    seal('target', drive_id: drive(Requests::REPLACEMENT).id, label: '7Q4F', reason: 'it is this one')
    call(:post, "/dockets/#{docket.id}/layout/plan", wish: { way: 'as_in_image' })
    seal('layout')
    write
    work_off
    expect(docket.reload.write).to be_verified
    expect(Write.count).to eq(2)
  end

  it 'is trouble where the drive is pulled while it is looked at, and breaks no seal' do
    stopped_at_a_damaged_cluster
    write
    allow(TargetVerdict).to(receive(:new).and_wrap_original do |made, *given|
      bench.pull('3') if AttachedDrives.of(docket.target)
      made.call(*given)
    end)
    work_off
    expect(shown['trouble']).to include('side' => 'target', 'kind' => 'away')
    expect(docket.reload.sealed?('target')).to be(true)
  end

  describe 'at the image' do
    it 'says what it hits and what can be done, and goes on with zeros as somebody decided' do
      trouble = stopped_at_a_damaged_cluster
      expect(trouble).to include('side' => 'source', 'kind' => 'damaged', 'part_name' => be_a(String))
      expect(trouble['files'].map { |file| file['part'] }.uniq).to eq([trouble['part']])
      expect(trouble['choices'].map { |choice| choice['id'] }).to match([/again/, /other-\d+/, /\Azeros\z/, /zeros_all/, /without/])
      expect(table).to be_nil
      decide('burn')
      expect(status).to eq(409)
      decide('zeros')
      expect(status).to eq(202)
      work_off
      expect(shown).to include('state' => 'done', 'verified' => true, 'trouble' => nil)
      expect(shown['decisions']).to match([include('choice' => 'zeros', 'by' => 'I. Hauge', 'cluster' => trouble['cluster'])])
      expect(fact('skipped')).to include('state' => 'ask', 'title' => 'Zeros stand in some places')
      expect(docket.events.where(kind: 'write_decided').last.text).to include('cluster', 'zeros')
    end

    it 'offers another image of the computer that has the same cluster, and takes it from there' do
      trouble = stopped_at_a_damaged_cluster do
        copy = "#{image.path}-copy"
        FileUtils.cp_r(image_path, File.join(image.shelf.path, copy))
        Image.create!(image.attributes.except('id').merge('path' => copy, 'uid' => SecureRandom.uuid, 'taken_at' => image.taken_at - 60))
      end
      other = trouble['choices'].find { |choice| choice['id'].start_with?('other-') }
      expect(other['title']).to match(/Take it from the image of/)
      decide(other['id'])
      work_off
      expect(shown).to include('state' => 'done', 'verified' => true)
      expect(fact('skipped')).to include('state' => 'ok')
      expect(fact('decided-other')['title']).to eq(other['title'])
    end

    it 'stops when its shelf is pulled in the middle, and goes on by itself when that is back, in any port' do
      seal_as_in_image
      fault(bytes_per_second: 40_000_000)
      curve = SpeedCurve.new([])
      allow(SpeedCurve).to receive(:new).and_return(curve)
      allow(curve).to receive(:add).and_wrap_original do |add, speed|
        bench.pull('2') if speed.positive? && bench.port_of(shelf)
        add.call(speed)
      end
      write
      work_off
      expect(shown['trouble']).to include('side' => 'source', 'kind' => 'away')
      expect(shown['trouble']['choices'].map { |choice| choice['id'] }).to eq(['again'])
      ResumeAfterReplug.resume
      expect(shown['state']).to eq('failed')
      allow(SpeedCurve).to receive(:new).and_call_original
      fault
      bench.plug(shelf, '6')
      ResumeAfterReplug.resume
      expect(shown['state']).to eq('queued')
      work_off
      expect(shown).to include('state' => 'done', 'verified' => true)
    end

    it 'leaves a part out where that was decided, and says so' do
      trouble = stopped_at_a_damaged_cluster
      decide('without')
      work_off
      expect(shown).to include('state' => 'done')
      expect(fact('skipped')).to include('title' => 'A part was left out', 'detail' => "Part #{trouble['part']} is empty")
    end
  end

  describe 'at the target' do
    # Some of the system was written by then.
    def lost
      seal_as_in_image
      fault(disconnects_after: 12_000_000)
      write
      work_off
      expect(shown).to include('state' => 'failed', 'trouble' => include('side' => 'target', 'kind' => 'away'))
    end

    it 'goes on by itself when the drive is back in its port' do
      lost
      ResumeAfterReplug.resume
      expect(shown['state']).to eq('failed')
      bench.plug(Requests::REPLACEMENT, '3')
      ResumeAfterReplug.resume
      expect(shown['state']).to eq('queued')
      work_off
      expect(shown).to include('state' => 'done', 'verified' => true)
    end

    it 'goes on in another port only when somebody says so' do
      lost
      bench.plug(Requests::REPLACEMENT, '5')
      ResumeAfterReplug.resume
      expect(shown['state']).to eq('failed')
      decide('again')
      expect(status).to eq(202)
      work_off
      expect(shown).to include('state' => 'done', 'verified' => true, 'port' => '5')
    end

    it 'asks where the drive was moved while the worker was down' do
      lost
      bench.plug(Requests::REPLACEMENT, '3')
      write
      bench.pull('3')
      bench.plug(Requests::REPLACEMENT, '6')
      work_off
      expect(shown['trouble']).to include('kind' => 'moved', 'message' => /in port 6 now, it was in port 3/)
      decide('again')
      work_off
      expect(shown).to include('state' => 'done', 'port' => '6')
    end

    it 'does not go on where another drive is in the port' do
      lost
      bench.pull('1')
      bench.plug('TF48-2209-7Q1F', '3')
      ResumeAfterReplug.resume
      expect(shown['state']).to eq('failed')
      decide('again')
      expect([status, JSON.parse(last_response.body)['message']]).to eq([409, 'the sealed drive is not attached'])
    end

    it 'names the part and the files at a spot that takes nothing' do
      seal_as_in_image
      place = Stations::LayoutStation.new(docket).plan.pieces[1]
      first = ImageAccess.open(image) { |opened| opened.digests.each_batch(from: place.clusters.begin + 1).first.first.first }
      at = place.target_start + (first * Evrel::Image::CLUSTER) - place.image_start
      fault(unwritable: [[at + 512, 512]])
      write
      work_off
      expect(shown['trouble']).to include('side' => 'target', 'kind' => 'unwritable', 'part' => place.number, 'offset' => at + 512)
      expect(shown['trouble']['choices'].map { |choice| choice['id'] }).to eq(%w[again without])
      fault
      decide('again')
      work_off
      expect(shown).to include('state' => 'done', 'verified' => true)
    end

    it 'is cut off when the drive is pulled by hand, between two bytes' do
      seal_as_in_image
      attached = AttachedDrives.by_key(Requests::REPLACEMENT)
      disk = attached.open(writable: true, docket: docket.number)
      disk.write(0, 'before')
      bench.pull('3')
      bench.plug(Requests::REPLACEMENT, '3')
      sleep StandIns::Disk::Line::LOOK * 2
      expect { disk.write(0, 'behind') }.to raise_error(Evrel::Away)
      expect(File.binread(attached.local_path, 6)).to eq('before')
    ensure
      disk&.close
    end
  end

  describe 'at this machine' do
    it 'does not begin where the journal has no room, and says so' do
      seal_as_in_image
      before = held(path)
      allow(Evrel::Linux::FreeSpace).to receive(:of).and_return([10**6, 10**12])
      write
      work_off
      expect(shown['trouble']).to include('side' => 'scratch', 'kind' => 'full')
      expect(held(path)).to eq(before)
      allow(Evrel::Linux::FreeSpace).to receive(:of).and_call_original
      decide('again')
      work_off
      expect(shown['state']).to eq('done')
    end

    it 'is kept from going to sleep as long as something is written' do
      flag = file('awake')
      File.write(file('systemd-inhibit'), "#!/bin/sh\necho \"$*\" > #{flag}\ncat\nrm #{flag}\n", perm: 0o755)
      path = Evrel::Tool::ENVIRONMENT.fetch('PATH')
      stub_const('Evrel::Tool::ENVIRONMENT', Evrel::Tool::ENVIRONMENT.merge('PATH' => "#{@folder}:#{path}"))
      Awake.while { eventually { File.exist?(flag) && File.read(flag).include?('--what=sleep') } }
      eventually { !File.exist?(flag) }
      stub_const('Evrel::Tool::ENVIRONMENT', Evrel::Tool::ENVIRONMENT.merge('PATH' => '/nowhere'))
      expect(Awake.while { 7 }).to eq(7)
    end
  end

  describe 'and how it is done' do
    def choose(**options) = call(:patch, "/dockets/#{docket.id}/write/options", **options)

    it 'is paused and goes on' do
      seal_as_in_image
      write
      call(:post, "/dockets/#{docket.id}/write/pause")
      expect(status).to eq(202)
      work_off
      expect(shown).to include('state' => 'paused')
      expect(fact('errors')).to include('title' => 'Paused')
      write
      work_off
      expect(shown).to include('state' => 'done', 'verified' => true)
    end

    it 'is chosen before it begins, and not after' do
      seal_as_in_image
      expect(station('write')['view']['options']).to include('unused' => 'discard', 'skip_identical' => false)
      choose(unused: 'leave', skip_identical: true)
      expect(station('write')['view']['orders'].map do |order|
        order['detail']
      end).to include(/unused room stays as it is/, /only what differs/)
      expect { ChosenOptions.new(docket).choose('unused' => 'burn') }.to raise_error(Evrel::Refused, /burn/)
      expect { ChosenOptions.new(docket).choose('skip_identical' => 'perhaps') }.to raise_error(Evrel::Refused, /true or false/)
      write
      choose(unused: 'zero')
      expect([status, JSON.parse(last_response.body)['message']]).to eq([409, 'the write was begun already'])
      work_off
      expect(shown).to include('state' => 'done', 'summary' => include('discarded' => 0))
    end

    it 'is suggested by whether the image is of this very drive' do
      seal_as_in_image
      image.update!(manifest: image.manifest.merge('drive' => { 'serial' => Requests::REPLACEMENT }))
      expect(station('write')['view']['options']).to include('skip_identical' => true, 'own_drive' => true)
    end

    it 'waits its turn, and says behind how many' do
      seal_as_in_image
      Delayed::Job.enqueue(TrialJob.new(0), queue: Config.bench, priority: 10) # a write goes before it
      Delayed::Job.enqueue(WriteJob.new(0), queue: Config.bench)
      write
      expect(station('write')['view']['before']).to eq(1)
      expect(call(:get,
                  '/writes')).to match([include('state' => 'queued', 'computer' => docket.computer.name, 'docket_number' => docket.number)])
    end
  end
end
