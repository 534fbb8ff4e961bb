# frozen_string_literal: true

# That a computer's image can be restored is proved: it is read through, and
# started in the emulator. state: waiting, checking, starting, done; held while
# it makes room for a write. outcome: proved, damaged, not_started, unknown (it
# could not be found out) or stopped.
class Proof < ActiveRecord::Base
  include AtBench

  HOLDS = 30.days # after which a night proves it again

  belongs_to :computer
  belongs_to :image
  belongs_to :technician
  belongs_to :trial_start, optional: true

  scope :open, -> { where.not(state: 'done') }
  scope :done, -> { where(state: 'done') }

  # @param technician [Technician] who asked, or chose the night
  # @return [Proof] the one that is under way already, or a new one
  def self.of(computer, image, technician:, by_night: false)
    open.find_by(computer:) || create!(computer:, image:, technician:, by_night:)
  rescue ActiveRecord::RecordNotUnique
    open.find_by!(computer:)
  end

  # Whatever it does is put aside.
  def stop
    image.update!(pause_asked: true) if state == 'checking' && image.state == 'checking'
    trial_start.update!(stop_asked: true) if state == 'starting' && trial_start.state != 'done'
    finish('stopped', 'stopped')
  end

  # @param outcome [String]
  # @param message [String] what was found, for people
  def finish(outcome, message)
    update!(state: 'done', outcome:, message:, held: false, finished_at: Time.now)
    news = outcome != 'proved' && outcome != 'stopped' && outcome != 'unknown' && before?
    Event.add(news ? 'proof_news' : 'proof_done', "#{computer.name}: #{'not as before: ' if news}#{message}",
              technician: (technician unless by_night), data: { computer_id:, image_id: })
  end

  private

  # @return [Boolean] whether it was once proved of this computer
  def before? = Proof.done.exists?(computer:, outcome: 'proved')
end
