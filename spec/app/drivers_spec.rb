# frozen_string_literal: true

require_relative 'app_helper'

RSpec.describe 'Driver packs for a system on NTFS' do
  let(:at) { "/dockets/#{docket.id}" }

  def image = Image.find_by!(path: 'office-system')

  # An image of such a system, on the demo's shelf, for its computer.
  def known_image
    shelf = Shelf.first
    Evrel::Disk::File.open(store_disk(:uefi)) do |disk|
      Evrel::Image::Capture.new(disk, File.join(shelf.path, 'office-system'),
                                about: { 'computer' => { 'name' => 'TKT-03', 'firmware' => 'uefi' } }).run
    end
    LookThrough.new(shelf).run
    image.update!(computer: docket.computer)
  end

  def pack(name, identifier)
    folder = File.join(DriverShelf.folder, name)
    FileUtils.mkdir_p(folder)
    File.write(File.join(folder, 'driver.inf'), "[Version]\nClass=SCSIAdapter\nProvider=\"Made Up\"\nDriverVer=02/03/2025,1.0\n" \
                                                "[Manufacturer]\nMade=Models\n[Models]\nOne=Install,#{identifier}\n")
    File.binwrite(File.join(folder, 'driver.sys'), 'x' * 4000)
  end

  after { FileUtils.rm_rf(DriverShelf.folder) }

  it 'are listed by the hardware, placed where they are chosen, and taken back' do
    sign_in
    known_image
    seal_as_in_image
    call(:post, "#{at}/write")
    work_off
    call(:patch, "#{at}/hardware", hardware: "00:02.0 SATA controller [0106]: Made Up [1b57:0001]\n")
    steps = station('start')['view']['check']['steps'].to_h { |step| [step['id'], step] }
    expect(steps).to include('store' => include('state' => 'ok'), 'system' => include('state' => 'ok'),
                             'drivers' => include('mend' => 'drivers'))

    call(:post, "#{at}/mends/draft", step: 'drivers', packs: ['controller'])
    expect([status, JSON.parse(last_response.body)['message']]).to match([409, /no pack “controller” matches/])
    pack('controller', 'PCI\CC_0106')
    pack('another', 'PCI\VEN_0000&DEV_0000')
    expect(call(:get, "#{at}/driver-packs").map { |one| one['name'] }).to eq(['controller'])
    call(:post, "#{at}/mends", step: 'drivers', packs: ['controller'])
    expect(status).to eq(201)
    expect(driver).to eq('x' * 4000)
    call(:post, "#{at}/mends/#{docket.mends.last.id}/undo")
    expect(driver).to be_nil
  end

  # Read by the tool of that file system.
  def driver
    path = AttachedDrives.by_key(Requests::REPLACEMENT).local_path
    run('dd', "if=#{path}", "of=#{file('volume')}", 'bs=1M', "skip=#{StoreDisks::NTFS_START[:uefi] / Disks::MIB}", "count=#{StoreDisks::NTFS_MIB}",
        'conv=sparse', 'status=none')
    if content?('ntfscat', file('volume'),
                'Drivers/controller/driver.sys')
      run('ntfscat', file('volume'), 'Drivers/controller/driver.sys')
    end
  end
end
