# frozen_string_literal: true

# What was answered to a call that a page made under a key of its own. Made
# before the call is carried out and in the same transaction, so that the same
# call once more, at the same moment or later, is not carried out again.
class Answer < ActiveRecord::Base
  KEPT = 1.day

  belongs_to :technician

  # @param technician_id [Integer]
  # @param key [String]
  # @param call [String] digest of what is asked
  # @return [Answer] given already, or still to be given
  # @raise [Evrel::Refused] where the key was used for something else
  def self.for(technician_id, key, call)
    found = find_by(technician_id:, key:)
    if found && found.call != call
      raise Evrel::Refused.new('this key was used for another call', where: 'Idempotency-Key', hint: 'take a new one')
    end

    where('created_at < ?', KEPT.ago).delete_all unless found
    found || create!(technician_id:, key:, call:)
  end

  def given? = !status.nil?
end
