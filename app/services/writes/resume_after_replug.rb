# frozen_string_literal: true

# Writes whose target had gone go on by themselves when it is back in the same
# port. In another port somebody has to say so. A shelf may come back anywhere:
# it is only read.
module ResumeAfterReplug
  module_function

  # Looks whenever this process' worker has nothing to do.
  def watch = Delayed::Worker.lifecycle.before(:loop) { resume }

  # @return [Array<Write>] those that go on
  def resume
    gone.select { |write| write.docket.write == write && back?(write) }.each do |write|
      WriteKeeper.new(write.docket).start(write.technician)
    rescue Evrel::Error => e
      # It is not as it was: the page says so, and nobody is asked twice a second.
      write.update!(trouble: nil, error: [e.message, e.hint].compact.join('; '))
    end
  end

  # Asked for twice a second: the database leaves out all that failed otherwise.
  def gone = Write.where(state: 'failed').where("JSON_VALUE(trouble, '$.kind') = 'away'")

  def back?(write) = AttachedDrives.of(write.drive)&.port == write.port && SourceAccess.there?(write.source)
end
