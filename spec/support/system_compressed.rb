# frozen_string_literal: true

# Encoders for what a system does to its own files, as plain as the formats
# allow: XPRESS with one length of code for all symbols and real matches, LZX
# with literals alone; and files on an NTFS volume that have such contents, made
# by the driver of ntfs-3g.
module SystemCompressed
  SYSTEM = 0x8000_0017
  METHODS = { 'XPRESS of 4 KiB' => [0, 4096, :xpress], 'LZX' => [1, 32_768, :lzx], 'XPRESS of 8 KiB' => [2, 8192, :xpress],
              'XPRESS of 16 KiB' => [3, 16_384, :xpress] }.freeze

  # Bits, the highest first, in words of 16 bits with the lower byte first.
  class Bits
    def initialize
      @bits = +''
    end

    def add(value, count)
      @bits << value.to_s(2).rjust(count, '0') if count.positive?
      self
    end

    def to_s = @bits.ljust((@bits.size + 15) / 16 * 16, '0').scan(/.{16}/).map { |word| word.to_i(2) }.pack('v*')
  end

  module_function

  # All 512 symbols have codes of 9 bits, so that a symbol is its own code ([MS-XCA] 2.1).
  def xpress(bytes)
    bits = Bits.new
    seen = {}
    at = 0
    while at < bytes.bytesize
      from = seen[bytes.byteslice(at, 4)]
      seen[bytes.byteslice(at, 4)] = at
      length = from ? match(bytes, from, at) : 0
      if length >= 4
        distance = at - from
        high = distance.bit_length - 1
        bits.add(256 + (high << 4) + length - 3, 9)
        bits.add(distance - (1 << high), high)
        at += length
      else
        bits.add(bytes.getbyte(at), 9)
        at += 1
      end
    end
    ("\x99" * 256).b + bits.to_s + ("\0" * 4).b
  end

  def match(bytes, from, at)
    length = 0
    length += 1 while length < 17 && at + length < bytes.bytesize && bytes.getbyte(from + length) == bytes.getbyte(at + length)
    length
  end

  # A verbatim block: literals with codes of 8 bits, nothing else has any. Lengths are told as differences to those before, by
  # codes of one bit for the two differences that occur.
  def lzx(bytes)
    bits = Bits.new
    bits.add(1, 3)
    bytes.bytesize == 32_768 ? bits.add(1, 1) : bits.add(0, 1).add(bytes.bytesize, 16)
    lengths(bits, 9, 256, '1')
    lengths(bits, 1, 240, '0')
    lengths(bits, 1, 249, '0')
    bytes.each_byte { |byte| bits.add(byte, 8) }
    bits.to_s
  end

  def lengths(bits, other, count, code)
    20.times { |symbol| bits.add([0, other].include?(symbol) ? 1 : 0, 4) }
    count.times { bits.add(code.to_i, 1) }
  end

  # @return [String] table and chunks, as the stream beside the file holds them
  def stream(contents, size, method)
    chunks = contents.b.scan(/.{1,#{size}}/mn).map do |chunk|
      packed = send(method, chunk)
      packed.bytesize < chunk.bytesize ? packed : chunk
    end
    places = chunks.map(&:bytesize).inject([0]) { |sums, length| sums + [sums.last + length] }
    places[1..-2].pack('V*') + chunks.join
  end

  # What a command of setfattr(1) takes as the value of a reparse point.
  def reparse(tag, data) = "0x#{([tag, data.bytesize, 0].pack('Vvv') + data).unpack1('H*')}"
end
