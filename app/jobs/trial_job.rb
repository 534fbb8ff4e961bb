# frozen_string_literal: true

# A trial start in the emulator, of an image or of a written disk.
TrialJob = Struct.new(:trial_id) do
  def perform
    trial = TrialStart.find(trial_id)
    trial.update!(state: 'running')
    FileUtils.mkdir_p(Config.path('pictures'))
    name = "trial-#{trial.id}.png"
    path, format, firmware, sector = source(trial)
    result = Evrel::Startup::Trial.new(path, format:, firmware:,
                                             sector: sector || 512).run(picture: Config.path('pictures', name)) do |seconds, lines|
      look(trial, seconds, lines)
    end
    keep(trial, result, name)
  rescue StandardError => e
    trial.update!(state: 'done', outcome: 'failed', message: e.message)
    Event.add('trial_done', e.message, docket: trial.docket)
    raise unless e.is_a?(Evrel::Error)
  end

  private

  # @return [Array] path, format, kind of firmware, and bytes per sector where they are known
  def source(trial)
    return of_try(trial.layout_try) if trial.layout_try
    return of_image(trial.image) if trial.write.nil?

    seen = trial.write.drive.seen or
      raise Evrel::Refused.new('the written disk is not attached', where: 'start', hint: 'plug it in again')
    [seen.path, 'raw', trial.docket.computer.firmware.to_sym, seen.logical_sector]
  end

  def of_try(tried) = [tried.path, 'raw', tried.docket.computer.firmware.to_sym, tried.docket.target&.seen&.logical_sector]

  def of_image(image)
    image.open_image do |opened|
      [*Evrel::Image::TrialSource.of(opened, Image.kept), image.document.table_kind == 'mbr' ? :bios : :uefi]
    end
  end

  def look(trial, seconds, lines)
    return if @last && seconds - @last < 1

    @last = seconds
    trial.update!(seconds:, lines:)
    :stop if TrialStart.where(id: trial_id).pick(:stop_asked)
  end

  def keep(trial, result, name)
    trial.update!(state: 'done', outcome: result.outcome, seconds: result.seconds, lines: result.lines,
                  message: result.message, picture: result.picture && name)
    Event.add('trial_done', "Trial start: #{result.message}", docket: trial.docket, technician: trial.technician)
  end
end
