# frozen_string_literal: true

require 'tempfile'

# A photo that somebody took: read by a picture program and written by it, so
# that whatever else was in the file is gone.
module Photo
  LARGEST = 12 * (1024**2) # bytes as it comes
  SIDE = 1600 # pixels as it is kept
  KEPT = 1024**2 # bytes of such a one, at most about
  KINDS = { "\xFF\xD8\xFF".b => 'jpeg', "\x89PNG".b => 'png' }.freeze

  module_function

  # @param body [#read]
  # @param path [String] of the JPEG that is made of it
  # @raise [Evrel::Refused] where it is no picture, or too large; what was at the path stays
  # @raise [Evrel::DoesNotFit] where pictures take all that they may
  def keep(body, path)
    Tempfile.create('evrel-photo', binmode: true) do |file|
      IO.copy_stream(body, file, LARGEST + 1)
      file.flush
      raise Evrel::Refused.new("a photo has at most #{LARGEST / (1024**2)} MiB", where: 'photo') if file.size > LARGEST

      kind = KINDS.find { |magic, _| File.binread(file.path, magic.bytesize) == magic }&.last or no_picture
      FileUtils.mkdir_p(File.dirname(path))
      Evrel::Room.bound(File.dirname(path), KEPT, Config.most('pictures'), 'pictures')
      make_anew("#{kind}:#{file.path}[0]", path)
    end
  end

  def make_anew(from, path)
    made = Evrel::Tool.run(
      'gm', 'convert', '-limit', 'memory', '256MB', '-limit', 'pixels', '80M', from, '-auto-orient', '-strip',
      '-resize', "#{SIDE}x#{SIDE}>", '-quality', '82', "jpeg:#{path}.new",
      read: [from[/:(.*)\[0\]\z/, 1]], write: [File.dirname(path)]
    )
    no_picture unless made.success? && File.size?("#{path}.new")
    File.rename("#{path}.new", path)
  ensure
    FileUtils.rm_f("#{path}.new")
  end

  def no_picture = raise(Evrel::Refused.new('that is no picture', where: 'photo', hint: 'take a JPEG or a PNG'))
end
