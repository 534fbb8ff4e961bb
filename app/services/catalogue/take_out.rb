# frozen_string_literal: true

# An archive of files out of an image or a drive, as an answer that is streamed.
class TakeOut
  TYPES = { 'zip' => 'application/zip', 'tar' => 'application/x-tar' }.freeze
  # A whole part may be taken out, over a slow line.
  LIMITS = { seconds: 12 * 3600, processor: 4 * 3600 }.freeze

  # @param holding [Holding]
  # @param part [Integer]
  # @param paths [Array<String>]
  # @param kind [String] "zip" or "tar"
  # @param technician [Technician]
  # @raise [Evrel::NotFound] where one of them is not there, before anything is sent
  def initialize(holding, part, paths, kind, technician)
    @holding = holding
    @part = part
    @paths = paths
    @kind = kind
    @technician = technician
    Looks.call(technician) { holding.volume(part) { |volume| paths.each { |path| volume.entry(path) } && nil } }
  end

  # @return [Array] status, headers, body
  def answer
    [200, { 'content-type' => TYPES.fetch(@kind), 'content-disposition' => "attachment; filename=\"#{file_name}\"" }, self]
  end

  # @yieldparam bytes [String]
  def each(&send)
    Looks.stream(@technician, send, **LIMITS) do |out|
      @holding.volume(@part) do |volume|
        gathered = Buffer.new { |bytes| out << bytes }
        Evrel::Archive.write(volume, @paths, @kind, gathered)
        gathered.flush
      end
      nil
    end
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

  def file_name
    base = @paths.one? && @paths.first != '/' ? File.basename(@paths.first) : 'files'
    words = [@holding.computer, @holding.taken_at.getlocal.strftime('%Y-%m-%d'), base].compact.join('-')
    "#{words.gsub(/[^A-Za-z0-9._-]/, '_')[0, 100]}.#{@kind}"
  end
end
