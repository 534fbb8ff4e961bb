# frozen_string_literal: true

# The writes of this bench that somebody may want to look at from afar: those
# that run, wait or stopped, and those that ended a moment ago.
module OpenWrites
  RECENT = 3600 # seconds

  module_function

  # @return [Array<Hash>] what needs somebody first
  def list
    Write.where.not(state: 'done').or(Write.where(finished_at: (Time.now - RECENT)..)).includes(:technician, :drive, docket: :computer)
         .order(id: :desc).limit(40).select { |write| write.docket.write == write }.map { |write| of(write) }
         .sort_by { |write| [%w[failed running queued paused stopped done].index(write[:state]), write[:id]] }
  end

  def of(write)
    docket = write.docket
    order = write.orders.to_a.find { |one| one.id == write.progress['order'] }
    WriteView.of(write).merge(docket_number: docket.number, computer: docket.computer.name, place: docket.computer.place,
                              label: write.drive.serial.to_s[-4..], order: order && order['title'])
  end
end
