# frozen_string_literal: true

module Evrel
  module Table
    # What a partition is for. The role decides its colour and what a plan may
    # do with it; the GUIDs are those of the UEFI specification (5.3.3) and of
    # the Discoverable Partitions Specification, the bytes those that `sfdisk
    # --list-types` prints.
    module Types
      Type = Struct.new(:guid, :name, :role)

      # Of the part in which GRUB's core lies on a GPT.
      BIOS_BOOT = '21686148-6449-6e6f-744e-656564454649'

      ALL = [
        ['c12a7328-f81f-11d2-ba4b-00a0c93ec93b', 'EFI system', :startup],
        ['bc13c2ff-59e6-4262-a352-b275fd6f7172', 'Extended boot loader', :startup],
        [BIOS_BOOT, 'BIOS boot', :startup],
        ['024dee41-33e7-11d3-9d69-0008c781f39f', 'MBR partition scheme', :startup],
        ['e3c9e316-0b5c-4db8-817d-f92df00215ae', 'Reserved', :reserved],
        ['8da63339-0007-60c0-c436-083ac8230908', 'Reserved (Linux)', :reserved],
        ['4f68bce3-e8cd-4db1-96e7-fbcaf984b709', 'Root (x86-64)', :system],
        ['44479540-f297-41b2-9af7-d131d5f0458a', 'Root (x86)', :system],
        ['b921b045-1df0-41c3-af44-4c6f280d3fae', 'Root (ARM 64)', :system],
        ['69dad710-2ce4-4e3c-b16c-21a1d49abed3', 'Root (ARM)', :system],
        ['ebd0a0a2-b9e5-4433-87c0-68b6b72699c7', 'Basic data', :data],
        ['0fc63daf-8483-4772-8e79-3d69d8477de4', 'Linux file system', :data],
        ['933ac7e1-2eb4-4f13-b844-0e14e2aef915', 'Home', :data],
        ['3b8f8425-20e0-4f3b-907f-1a25a76f98e8', 'Server data', :data],
        ['4d21b016-b534-45c2-a9fb-5c16e091fd2d', 'Variable data', :data],
        ['a19d880f-05fc-4d3b-a006-743f0f84911e', 'Software RAID', :data],
        ['e6d6d379-f507-44c2-a23c-238f2a3df928', 'Logical volumes', :data],
        ['ca7d7ccb-63ed-4c53-861c-1742536059cc', 'Encrypted volume', :data],
        ['de94bba4-06d1-4d40-a16a-bfd50179d6ac', 'Recovery', :recovery],
        ['0657fd6d-a4ab-43c4-84e5-0933c84b4f4f', 'Linux swap', :swap],
        ['5808c8aa-7e8f-42e0-85d2-e1e90434cfb3', 'Dynamic disk, database', :reserved],
        ['af9b60a0-1431-4f62-bc68-3311714a69ad', 'Dynamic disk', :data],
        ['9e1a2d38-c612-4316-aa26-8b49521e5a8b', 'PReP boot', :startup],
        ['0x01', 'FAT12', :data],
        ['0x04', 'FAT16 below 32 MB', :data],
        ['0x06', 'FAT16', :data],
        ['0x07', 'NTFS or exFAT', :data],
        ['0x0b', 'FAT32', :data],
        ['0x0c', 'FAT32 (LBA)', :data],
        ['0x0e', 'FAT16 (LBA)', :data],
        ['0x11', 'FAT12, hidden', :data],
        ['0x14', 'FAT16 below 32 MB, hidden', :data],
        ['0x16', 'FAT16, hidden', :data],
        ['0x17', 'NTFS or exFAT, hidden', :data],
        ['0x1b', 'FAT32, hidden', :data],
        ['0x1c', 'FAT32 (LBA), hidden', :data],
        ['0x1e', 'FAT16 (LBA), hidden', :data],
        ['0x27', 'Recovery', :recovery],
        ['0x41', 'PReP boot', :startup],
        ['0x42', 'Dynamic disk', :data],
        ['0x82', 'Linux swap', :swap],
        ['0x83', 'Linux file system', :data],
        ['0x8e', 'Logical volumes', :data],
        ['0xef', 'EFI system', :startup],
        ['0xfd', 'Software RAID', :data]
      ].to_h { |guid, name, role| [guid, Type.new(guid, name, role)] }.freeze

      # @return [Boolean] whether the registry knows it
      def self.known?(guid) = ALL.key?(guid)

      # @param guid [String] lower-case type GUID, or the byte of an MBR as "0x83"
      # @return [Type] one named "Unknown type", of role :data, where the
      #   registry does not know it
      def self.[](guid) = ALL[guid] || Type.new(guid, 'Unknown type', :data)

      # @param role [Symbol]
      # @return [String] the word on a core
      def self.role_name(role)
        { startup: 'Start-up', reserved: 'Reserved', system: 'System', data: 'Data',
          recovery: 'Recovery', swap: 'Swap' }.fetch(role)
      end
    end
  end
end
