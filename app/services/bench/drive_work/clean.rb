# frozen_string_literal: true

module DriveWork
  # Makes a drive empty.
  class Clean < Base
    def run
      writing do |disk|
        result = Evrel::Upkeep::Clean.new(disk, params.fetch('how')).run { |done, total| yield({ done:, total: }) }
        next result.to_h if result.verified?

        raise Evrel::Mismatch.new("byte #{result.left} is not empty after cleaning", where: "byte #{result.left}")
      end
    end
  end
end
