# frozen_string_literal: true

module DriveWork
  # Counts what would be lost.
  class Count < Base
    def run
      since = params['since'] && Time.iso8601(params['since'])
      reading { |disk| Evrel::Safety::Loss.new(disk, since:).count { |entries| yield({ entries: }) }.to_h }
    end
  end
end
