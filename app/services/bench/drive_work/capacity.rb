# frozen_string_literal: true

module DriveWork
  # Finds out whether a drive is as large as it says.
  class Capacity < Base
    def run
      kind = params['whole'] ? Evrel::Upkeep::WholeTest : Evrel::Upkeep::CapacityTest
      writing { |disk| kind.new(disk).run { |done, total| yield({ done:, total: }) }.to_h }
    end
  end
end
