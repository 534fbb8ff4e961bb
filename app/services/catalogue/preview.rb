# frozen_string_literal: true

# A bounded look at one file inside an image. Nothing of it is ever rendered as
# anything but text, numbers or a picture of a known kind.
class Preview
  TEXT = 64 * 1024      # bytes of text
  HEX = 4 * 1024        # bytes of anything else
  PICTURE = 8 * (1024**2) # bytes of a picture
  # By their first bytes; no format that can hold a program.
  PICTURES = { "\x89PNG\r\n\x1A\n".b => 'image/png', "\xFF\xD8\xFF".b => 'image/jpeg', 'GIF87a' => 'image/gif',
               'GIF89a' => 'image/gif' }.freeze

  # @param volume [Object]
  # @param path [String]
  # @raise [Evrel::Error]
  def initialize(volume, path)
    @volume = volume
    @entry = volume.entry(path)
    raise Evrel::NotFound.new("#{path} is no file", where: path) unless @entry.file?
  end

  # @return [Hash] kind: "text", "hex", "picture" or "empty"; text; cut, whether there is more
  def to_h
    head = @volume.file_head(@entry.path, TEXT)
    { path: @entry.path, size: @entry.size, modified_at: @entry.modified_at&.iso8601, **shown(head) }
  end

  # @return [Array<(String, String)>] type and bytes of a picture, or nil
  def picture
    type = picture_type(@volume.file_head(@entry.path, 16))
    [type, @volume.file_head(@entry.path, PICTURE)] if type && @entry.size <= PICTURE
  end

  private

  def shown(head)
    return { kind: 'empty', text: '', cut: false } if head.empty?
    return { kind: 'picture', text: '', cut: false } if picture_type(head) && @entry.size <= PICTURE

    text = head.dup.force_encoding('UTF-8')
    # A character may have been cut in two at the end.
    text = text.byteslice(0, text.bytesize - 3).scrub('') unless text.valid_encoding? || @entry.size <= TEXT
    return { kind: 'text', text:, cut: @entry.size > TEXT } if text.valid_encoding? && text.count("\0-\x08\x0E-\x1A\x7F").zero?

    { kind: 'hex', text: hex(head.byteslice(0, HEX)), cut: @entry.size > HEX }
  end

  def picture_type(head) = PICTURES.find { |magic, _| head.b.start_with?(magic.b) }&.last

  def hex(bytes)
    bytes.bytes.each_slice(16).with_index.map do |row, index|
      format('%<at>08x  %<hex>-48s %<text>s', at: index * 16, hex: row.map { |byte| format('%02x', byte) }.join(' '),
                                              text: row.map { |byte| byte.between?(32, 126) ? byte.chr : '.' }.join)
    end.join("\n")
  end
end
