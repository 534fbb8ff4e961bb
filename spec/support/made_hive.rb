# frozen_string_literal: true

# Registry hives as a start-up store has them, put together here byte for byte;
# hivexsh is the judge that they are some.
class MadeHive
  MANAGER = '{9dea862c-5cdd-4e70-acc1-f32b344d4795}'
  ENTRY = '{11111111-aaaa-4bbb-8ccc-222222222222}'

  # A store whose default entry starts a program on a partition of a GPT disk.
  # @param part [String] GUID of the partition
  # @param disk [String] GUID of the disk
  # @return [String]
  def self.store(part:, disk:, path:, title: 'Office')
    device = ("\0" * 16).b + [6, 0, 0x48, 0].pack('V4') + guid(part) + [0, 0].pack('V2') + guid(disk) + ("\0" * 16).b
    with(device, path, title)
  end

  # The same for an MBR disk.
  # @param offset [Integer] bytes
  # @param signature [Integer]
  def self.store_mbr(offset:, signature:, path:, title: 'Office')
    device = ("\0" * 16).b + [6, 0, 0x48,
                              0].pack('V4') + [offset, 0].pack('Q<2') + [0, 1].pack('V2') + [signature].pack('V') + ("\0" * 28).b
    with(device, path, title)
  end

  def self.with(device, path, title)
    new({ 'Objects' => {
          MANAGER => { 'Elements' => { '23000003' => text(ENTRY) } },
          ENTRY => { 'Elements' => { '11000001' => device, '21000001' => device, '12000002' => text(path.tr('/', '\\')),
                                     '12000004' => text(title) } }
        } }).bytes
  end

  def self.text(string) = "#{string}\0".encode('UTF-16LE').b
  def self.guid(text) = text.delete('-').then { |hex| [hex[0, 8].hex, hex[8, 4].hex, hex[12, 4].hex, hex[16..]].pack('VvvH16') }

  # @param tree [Hash] keys; a String is the value “Element” of its key
  def initialize(tree)
    @cells = ''.b
    @root = key('Store', tree, root: true)
  end

  # @return [String] head, and one bin with all cells
  def bytes
    size = (@cells.bytesize + 32 + 4095) / 4096 * 4096
    rest = size - 32 - @cells.bytesize
    free = rest.positive? ? [rest].pack('l<') + ("\0".b * (rest - 4)) : ''.b
    bin = ['hbin', 0, size].pack('a4VV') + ("\0".b * 20) + @cells + free
    head = ['regf', 1, 1, 0, 1, 3, 0, 1, @root, size, 1].pack('a4VVQ<VVVVVVV').ljust(508, "\0".b)
    (head + [head.unpack('V*').reduce(:^)].pack('V')).ljust(4096, "\0".b) + bin
  end

  private

  # @return [Integer] its address
  def cell(bytes)
    address = @cells.bytesize + 32
    size = (bytes.bytesize + 4 + 7) / 8 * 8
    @cells << [-size].pack('l<') << bytes.ljust(size - 4, "\0".b)
    address
  end

  def key(name, content, root: false)
    values = content.is_a?(String) ? cell([value(content)].pack('V')) : 0xFFFFFFFF
    children = content.is_a?(Hash) ? content.map { |child, inner| [child, key(child, inner)] }.sort_by { |child, _| child.downcase } : []
    numbers = [children.size, 0, list(children), 0xFFFFFFFF, content.is_a?(String) ? 1 : 0, values, @security ||= security, 0xFFFFFFFF]
    head = ['nk', root ? 0x2C : 0x20, 0, 0, 0, *numbers, 0, 0, 0, 0, 0, name.bytesize, 0]
    cell(head.pack('a2vQ<VVVVVVVVVVVVVVVvv') + name.b)
  end

  def list(children)
    return 0xFFFFFFFF if children.empty?

    cell(['lf', children.size].pack('a2v') + children.map { |child, at| [at].pack('V') + child.b[0, 4].ljust(4, "\0") }.join)
  end

  def value(content)
    data = cell(content)
    cell(['vk', 7, content.bytesize, data, 3, 1, 0].pack('a2vVVVvv') + 'Element')
  end

  # One descriptor that all keys share; nobody reads it.
  def security = cell(['sk', 0, 32, 32, 1, 20].pack('a2vVVVV') + "\1\0\4\x80".b.ljust(20, "\0".b))
end
