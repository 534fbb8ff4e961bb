# frozen_string_literal: true

# A station's decision: who made it, when, and on which evidence.
class Seal < ActiveRecord::Base
  belongs_to :docket
  belongs_to :technician
  belongs_to :broken_by, class_name: 'Technician', optional: true

  attribute :decision, :json
  attribute :evidence, :json

  # @return [Evrel::Identity] of the target, as it was when it was sealed
  def identity = Evrel::Identity.new(**evidence['identity'].symbolize_keys)

  def break(because, technician)
    update!(broken_at: Time.now, broken_because: because.truncate(250), broken_by: technician)
  end
end
