# frozen_string_literal: true

# Independent judges: ordinary disk tools, run for what they say.
module Tools
  # @return [String] what the command printed
  def run(*command, input: '')
    output, status = Evrel::Linux::Spawn.capture2e(*command, stdin_data: input)
    raise "#{command.join(' ')} failed:\n#{output}" unless status.success?

    output
  end

  # @return [Boolean] whether the command was content
  def content?(*command)
    _, status = Evrel::Linux::Spawn.capture2e(*command)
    status.success?
  end

  def file(name) = File.join(@folder, name)

  # A part of a raw disk or a qcow2, as an address for the emulator's tools.
  def part_of(path, format, start, size)
    "json:{\"driver\":\"raw\",\"offset\":#{start},\"size\":#{size}," \
      "\"file\":{\"driver\":\"#{format}\",\"file\":{\"driver\":\"file\",\"filename\":\"#{path}\"}}}"
  end
end
