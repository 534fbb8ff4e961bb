# frozen_string_literal: true

# An archive of files out of an image, as an answer that is streamed.
class TakeOut
  TYPES = { 'zip' => 'application/zip', 'tar' => 'application/x-tar' }.freeze

  # @param image [Image]
  # @param part [Integer]
  # @param paths [Array<String>]
  # @param kind [String] "zip" or "tar"
  # @raise [Evrel::NotFound] where one of them is not there, before anything is sent
  def initialize(image, part, paths, kind)
    @image = image
    @part = part
    @paths = paths
    @kind = kind
    within { |volume| paths.each { |path| volume.entry(path) } }
  end

  # @return [Array] status, headers, body
  def answer
    [200, { 'content-type' => TYPES.fetch(@kind), 'content-disposition' => "attachment; filename=\"#{file_name}\"" }, self]
  end

  # @yieldparam bytes [String]
  def each(&)
    out = Buffer.new(&)
    within { |volume| Evrel::Archive.write(volume, @paths, @kind, out) }
    out.flush
  end

  # Small writes are gathered: each piece that is sent costs.
  class Buffer
    SIZE = 256 * 1024

    def initialize(&send)
      @send = send
      @bytes = ''.b
    end

    def <<(bytes)
      @bytes << bytes.b
      flush if @bytes.bytesize >= SIZE
      self
    end

    def flush
      @send.call(@bytes) unless @bytes.empty?
      @bytes = ''.b
    end
  end

  private

  def within
    ImageAccess.open(@image) { |opened| yield Evrel::Image::Contents.new(opened).browsable(@part) }
  end

  def file_name
    base = @paths.one? && @paths.first != '/' ? File.basename(@paths.first) : 'files'
    words = [@image.computer&.name, @image.taken_at.getlocal.strftime('%Y-%m-%d'), base].compact.join('-')
    "#{words.gsub(/[^A-Za-z0-9._-]/, '_')[0, 100]}.#{@kind}"
  end
end
