# frozen_string_literal: true

# Texts as the programs print them, of an invented maker.
RSpec.describe Evrel::Inventory do
  tables = <<~TEXT
    # dmidecode 3.4
    Getting SMBIOS data from sysfs.
    SMBIOS 3.2.0 present.

    Handle 0x0000, DMI type 0, 26 bytes
    BIOS Information
    \tVendor: Brisk
    \tVersion: 2.11
    \tCharacteristics:
    \t\tPCI is supported
    \t\tUEFI is supported

    Handle 0x0001, DMI type 1, 27 bytes
    System Information
    \tManufacturer: Brisk
    \tProduct Name: Desk 5
    \tVersion: Not Specified
    \tSerial Number: BD5-00417
    \tUUID: 4c1e77a0-3b2d-4f10-9a55-0123456789ab
    \tWake-up Type: Power Switch

    Handle 0x0002, DMI type 2, 15 bytes
    Base Board Information
    \tManufacturer: Another
    \tSerial Number: To Be Filled By O.E.M.
  TEXT
  entries = <<~TEXT
    BootCurrent: 0001
    Timeout: 1 seconds
    BootOrder: 0001,0000,2001
    Boot0000* Network\tPciRoot(0x0)/Pci(0x1f,0x6)/MAC(001122334455,0)
    Boot0001* quay\tHD(1,GPT,1b7e0d94-52c8-4f6a-8d33-0c9fa6e1b274,0x800,0x100000)/File(\\EFI\\quay\\shimx64.efi)
    Boot2001* USB stick
  TEXT
  devices = <<~TEXT
    00:02.0 Non-Volatile memory controller [0108]: Velm NV controller [1b57:5008] (prog-if 02 [NVM Express])
    \tSubsystem: Velm NV2 [1b57:0002]
    \tKernel driver in use: nvme
  TEXT
  tree = JSON.generate([{ id: 'quay', class: 'system', product: 'Desk 5 (SKU 0042)', vendor: 'Brisk', serial: 'Default string',
                          configuration: { uuid: '03000200-0400-0500-0006-000700080009' },
                          children: [{ id: 'core', class: 'bus', children: [{ id: 'firmware', class: 'memory', capabilities: {} }] }] }])

  def facts(text) = described_class.read(text).to_h { |fact| [fact.field, [fact.value, fact.source]] }

  it 'reads the tables of the firmware, and says nothing of what they leave open' do
    expect(facts(tables)).to eq(maker: %w[Brisk dmidecode], model: ['Desk 5', 'dmidecode'], serial: %w[BD5-00417 dmidecode],
                                identity: %w[4C1E77A0-3B2D-4F10-9A55-0123456789AB dmidecode])
    expect(facts(tables.sub("\t\tUEFI is supported\n", ''))).to include(firmware: %w[bios dmidecode])
    expect(facts(tables.sub('BD5-00417', 'System Serial Number')).keys).not_to include(:serial)
    ['00000000-0000-0000-0000-000000000000', 'FFFFFFFF-FFFF-FFFF-FFFF-FFFFFFFFFFFF', 'Not Settable'].each do |none|
      expect(facts(tables.sub(/4c1e\S+/, none)).keys).not_to include(:identity)
    end
  end

  it 'reads start entries, their order and their loaders' do
    expect(facts(entries)).to include(firmware: %w[uefi efibootmgr], boot_order: [['quay', 'Network', 'USB stick'], 'efibootmgr'])
    expect(facts(entries)[:boot_entries].first[1]).to eq('name' => 'quay', 'path' => '\\EFI\\quay\\shimx64.efi',
                                                         'partition' => '1b7e0d94-52c8-4f6a-8d33-0c9fa6e1b274')
  end

  it 'reads devices, in words or as modaliases' do
    expect(facts(devices)).to eq(hardware: [devices, 'lspci'])
    alias_line = "pci:v00001B57d00005008sv00001B57sd00000002bc01sc08i02\n"
    expect(facts(alias_line)).to eq(hardware: [alias_line, 'modaliases'])
  end

  it 'reads all of it as a tree, without what many boards share' do
    expect(facts(tree)).to eq(maker: %w[Brisk lshw], model: ['Desk 5', 'lshw'], firmware: %w[bios lshw])
  end

  it 'takes several at once, with line ends of any kind' do
    all = facts([tables, entries, devices].join("\n").gsub("\n", "\r\n"))
    expect(all.keys).to contain_exactly(:maker, :model, :serial, :identity, :firmware, :boot_entries, :boot_order, :hardware)
    expect(all[:firmware]).to eq(%w[uefi efibootmgr])
  end

  it 'says what it takes where it understands nothing, and reads no more than it should' do
    ['', "\xFF\xFE".b, 'hello', '{"class":', '[[[[', "#{'[' * 5000}#{']' * 5000}", '{"class":"system","children":{"a":1}}'].each do |text|
      expect { described_class.read(text) }.to raise_error(Evrel::Damaged, /nothing of it was understood/), text[0, 20]
    end
    expect { described_class.read('x' * (10 * Evrel::MIB)) }.to raise_error(Evrel::Damaged, /more than 1 MiB/)
  end

  it 'reads what this machine itself says' do
    said, = Open3.capture2('sh', '-c', 'cat /sys/bus/pci/devices/*/modalias 2>/dev/null')
    skip 'this machine has no such devices' if said.empty?
    expect(facts(said)[:hardware].last).to eq('modaliases')
  end
end
