# frozen_string_literal: true

# A docket goes to a colleague, or serves as the pattern for an equal computer.
class HandOver
  LONGEST = 200 # characters of a note

  def initialize(docket)
    @docket = docket
  end

  # @param id [Integer, nil] of a technician; nil: whoever comes first
  # @return [Docket]
  # @raise [Evrel::Refused]
  def to(id, note, by:)
    raise Evrel::Refused.new('the docket is signed off', where: 'docket') if @docket.closed_at
    raise Evrel::Refused.new("a note has at most #{LONGEST} characters", where: 'note') if note.strip.length > LONGEST

    somebody = id && Technician.find(id)
    @docket.update!(waits_for_technician: somebody, waits_note: note.strip.presence)
    Event.add('handed_over', "Handed over to #{somebody&.short_name || 'whoever comes first'}#{": #{note.strip}" if note.strip.present?}",
              docket: @docket, technician: by)
    @docket
  end

  # @param computer [Computer] an equal one
  # @return [Docket] a new one
  def copy(computer, by:)
    raise Evrel::Refused.new('that is the same computer', where: 'computer') if computer == @docket.computer

    made = Docket.create!(computer:, cause: @docket.cause, trouble_since: @docket.trouble_since, note: @docket.note, opened_by: by,
                          copied_from: @docket)
    Event.add('opened', "Docket opened for #{computer.name}, as #{@docket.number}", docket: made, technician: by)
    made
  end
end
