# frozen_string_literal: true

module Evrel
  # A registry hive, read only: keys with values, in cells. The layout is that
  # of the open description of the format: a head of 4096 bytes that begins with
  # "regf", and behind it cells, each with its size in front (negative where it is in
  # use), addressed by their distance from the end of the head. Numbers are
  # little-endian.
  class Hive
    HEAD = 4096
    ROOT = 0x24    # in the head: address of the first key
    LENGTH = 0x28  # bytes of all cells
    NONE = 0xFFFFFFFF
    LARGEST = 16 * MIB
    MOST = 10_000  # keys or values in one place
    DEEPEST = 8    # lists of lists

    # A key: name, address of its list of keys and their number, the same of its values.
    Key = Struct.new(:name, :keys, :key_count, :values, :value_count)

    # @param bytes [String]
    # @return [Boolean]
    def self.hive?(bytes) = bytes.start_with?('regf')

    # @param bytes [String] the whole file
    # @raise [Damaged]
    def initialize(bytes)
      @bytes = bytes
      damaged('it does not begin as one') unless Hive.hive?(bytes) && bytes.bytesize > HEAD
      # The sum over the first 127 numbers of 32 bits.
      sum = bytes.byteslice(0, 508).unpack('V*').reduce(:^)
      damaged('the sum of its head is wrong') unless [sum, 1].max == bytes.byteslice(508, 4).unpack1('V') || sum == NONE
      damaged('it ends early') if bytes.byteslice(LENGTH, 4).unpack1('V') + HEAD > bytes.bytesize
    end

    # @return [Key]
    def root = key(@bytes.byteslice(ROOT, 4).unpack1('V'))

    # @param path [Array<String>] names of keys, from the root
    # @return [Key, nil]
    def find(*path) = path.reduce(root) { |current, name| current && keys(current).find { |one| one.name.casecmp?(name) } }

    # @return [Array<Key>]
    def keys(key) = key.key_count.zero? ? [] : listed(key.keys, 0).map { |address| key(address) }

    # @return [String, nil] contents of a value, binary
    def value(key, name) = value_at(key, name)&.first

    # @return [(String, Integer), nil] contents of a value, and the byte of the file at which they begin
    def value_at(key, name)
      return if key.value_count.zero?

      damaged('a key has too many values') if key.value_count > MOST
      addresses = cell(key.values).unpack("V#{key.value_count}").compact
      addresses.each do |address|
        bytes = cell(address)
        damaged('a value has no signature') unless bytes.start_with?('vk')
        length, size, at = bytes.byteslice(2, 10).unpack('vVV')
        return contents(size, at, address, bytes) if bytes.byteslice(20, length).casecmp?(name)
      end
      nil
    end

    # @return [String, nil] the same as text
    def text(key, name)
      bytes = value(key, name) or return
      Utf16.text(bytes).delete("\0")
    end

    private

    # Up to four bytes stand in the value itself, where the highest bit of the size is set.
    def contents(size, at, address, bytes)
      return [bytes.byteslice(8, size & 0x7FFFFFFF), address + HEAD + 12] if size.anybits?(0x80000000)

      data = cell(at)
      damaged('a value ends early') if data.bytesize < size
      [data.byteslice(0, size), at + HEAD + 4]
    end

    def key(address)
      bytes = cell(address)
      damaged("a key at #{address} has no signature") unless bytes.start_with?('nk')
      count, keys, value_count, values, length = bytes.byteslice(20, 56).unpack('Vx4Vx4VVx28v')
      Key.new(bytes.byteslice(76, length).to_s.dup.force_encoding('UTF-8').scrub, keys, count, values, value_count)
    end

    # Lists of keys: "lf" and "lh" with an address and four bytes each, "li" with addresses, "ri" with addresses of lists.
    def listed(address, depth)
      bytes = cell(address)
      kind, count = bytes.unpack('a2v')
      damaged('its lists of keys go round, or too deep') if depth > DEEPEST || count > MOST
      case kind
      when 'lf', 'lh' then bytes.byteslice(4, count * 8).unpack('V*').each_slice(2).map(&:first)
      when 'li' then bytes.byteslice(4, count * 4).unpack('V*')
      when 'ri' then bytes.byteslice(4, count * 4).unpack('V*').flat_map { |one| listed(one, depth + 1) }.first(MOST)
      else damaged('a list of keys has no signature')
      end
    end

    def cell(address)
      damaged("an address leads out of it: #{address}") if address == NONE || address + HEAD + 4 > @bytes.bytesize
      size = -@bytes.byteslice(address + HEAD, 4).unpack1('l<')
      damaged("a cell at #{address} is not in use, or too long") if size < 8 || address + HEAD + size > @bytes.bytesize
      @bytes.byteslice(address + HEAD + 4, size - 4)
    end

    def damaged(what) = raise(Damaged.new("the store is damaged: #{what}", where: 'start-up store'))
  end
end
