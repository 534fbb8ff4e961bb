# frozen_string_literal: true

module Evrel
  module Startup
    # A program or a library of Linux: the machine that it is for, the program
    # that loads it, and the libraries that it asks for (System V Application
    # Binary Interface, chapters 4 and 5, "Object Files" and "Program Loading";
    # elf(5)). Only what 64-bit little-endian files have: those of x86-64 and
    # ARM 64.
    class Elf
      MAGIC = "\x7FELF\x02\x01".b # 64 bits, little-endian
      MACHINES = { 62 => 'x86-64', 183 => 'ARM 64' }.freeze
      LOAD = 1 # p_type
      DYNAMIC = 2
      INTERPRETER = 3
      # Tags of the dynamic section.
      NEEDED = 1
      STRINGS = 5
      RPATH = 15
      RUNPATH = 29
      MOST_HEADERS = 256
      MOST_TAGS = 4096

      # @param bytes [String] the whole file
      # @return [Elf, nil] nil where it is none of these
      # @raise [Damaged] where it ends early
      def self.read(bytes) = bytes.start_with?(MAGIC) ? new(bytes) : nil

      # @return [String] as people call it
      attr_reader :machine
      # @return [String, nil] path of the program that loads it; nil where it needs none
      attr_reader :interpreter
      # @return [Array<String>] names of libraries
      attr_reader :needed
      # @return [Array<String>] folders in which it looks for them first
      attr_reader :folders

      # e_machine 0x12, e_phoff 0x20, e_phentsize 0x36, e_phnum 0x38
      def initialize(bytes)
        @bytes = bytes
        machine, at, size, count = unpack(0x12, 'vx12Q<x14vv')
        @machine = MACHINES[machine] || "machine #{machine}"
        @headers = (0...[count, MOST_HEADERS].min).map { |index| header(at + (index * size)) }
        @interpreter = segment(INTERPRETER)&.unpack1('Z*')
        read_dynamic(segment(DYNAMIC).to_s)
      end

      private

      Header = Struct.new(:type, :offset, :address, :size)
      private_constant :Header

      # p_type 0x00, p_offset 0x08, p_vaddr 0x10, p_filesz 0x20
      def header(at) = Header.new(*unpack(at, 'Vx4Q<Q<x8Q<'))

      def segment(type)
        found = @headers.find { |header| header.type == type } or return
        part(found.offset, found.size)
      end

      def read_dynamic(section)
        tags = section.unpack("Q<#{[section.bytesize / 16, MOST_TAGS].min * 2}").each_slice(2).take_while { |tag, _| tag.positive? }
        strings = tags.assoc(STRINGS)&.then { |_, address| offset_of(address) }
        names = ->(wanted) { tags.filter_map { |tag, at| text(strings + at) if wanted.include?(tag) } }
        @needed = strings ? names.call([NEEDED]) : []
        @folders = strings ? names.call([RUNPATH, RPATH]).flat_map { |list| list.split(':') } : []
      end

      # What is named by its address in memory lies in a segment that is loaded.
      def offset_of(address)
        found = @headers.find { |header| header.type == LOAD && address.between?(header.address, header.address + header.size - 1) }
        found ? found.offset + address - found.address : short
      end

      def text(at) = part(at, 1) && @bytes.byteslice(at, 4096).unpack1('Z*')
      def part(at, size) = at + size <= @bytes.bytesize ? @bytes.byteslice(at, size) : short
      def short = raise(Damaged.new('a program ends early', where: 'its headers'))

      def unpack(at, template)
        short if at + 56 > @bytes.bytesize
        @bytes.unpack(template, offset: at)
      end
    end
  end
end
