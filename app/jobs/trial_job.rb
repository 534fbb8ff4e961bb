# frozen_string_literal: true

# A trial start in the emulator, of an image or of a written disk, alone or
# with what is plugged in at the bench.
TrialJob = Struct.new(:trial_id) do
  # Seconds between two records of what is seen.
  def self.every = 0.8

  def perform
    @trial = TrialStart.find(trial_id)
    Owner.of(@trial) { work } unless @trial.state == 'done'
  end

  private

  def work
    @trial.update!(state: 'running')
    FileUtils.mkdir_p(Config.path('pictures'))
    Evrel::Room.bound(Config.path('pictures'), Photo::KEPT, Config.most('pictures'), 'pictures')
    @name = File.basename(@trial.picture_to_be)
    @plan = TrialPlan.new(@trial)
    result = @plan.lend do |path, format|
      trial(path, format).run(picture: @trial.picture_to_be) do |state, emulator|
        tell(state, emulator)
      end
    end
    return @trial.put_back if Workplace.ending? && !result.started? && !@trial.reload.stop_asked

    keep(result)
  rescue *Workplace::LOST
    raise
  rescue StandardError => e
    return if @trial.put_back_if_ending

    @trial.update!(state: 'done', outcome: 'failed', message: e.message)
    Event.add('trial_done', e.message, docket: @trial.docket)
    raise unless e.is_a?(Evrel::Error)
  end

  def trial(path, format) = Evrel::Startup::Trial.new(path, format:, proof: @plan.proof, **@plan.machine)

  def tell(state, emulator)
    typed(emulator)
    @telling ||= Telling.new(@trial, TrialJob.every)
    @telling.call do
      @trial.update!(seconds: state.seconds, lines: state.lines, text: state.text, milestones: state.milestones,
                     picture: (@name if state.pictured || @trial.picture))
    end
  end

  def typed(emulator)
    @trial.inputs.reset.order(:id).each do |input|
      input.typed['text'] ? emulator.type(input.typed['text']) : emulator.press(Array(input.typed['keys']))
      input.destroy!
    end
  end

  # What was read off the disk may say why it is stuck.
  def chain_says
    check = @trial.write && StartCheck.where(write: @trial.write).order(:id).last
    step = check&.steps.to_a.find { |one| one['state'] == 'no' && one['id'] != 'order' }
    step && "the chain says: #{step['title']}"
  end

  def keep(result)
    from = @plan.started_from(result)
    message = [result.message, from, (chain_says unless result.started?)].compact.join('; ')
    @trial.inputs.destroy_all
    @trial.update!(
      state: 'done', outcome: @plan.outcome(result), seconds: result.seconds, lines: result.lines, text: result.text,
      milestones: result.milestones, answer: result.answer, message:, picture: result.picture && @name
    )
    Event.add(
      'trial_done', "#{@trial.kind == 'computer' ? 'Turned on' : 'Trial start'}: #{message}",
      docket: @trial.docket, technician: @trial.technician
    )
  end
end
