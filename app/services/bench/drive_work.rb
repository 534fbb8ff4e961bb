# frozen_string_literal: true

# What can be done with a drive in the background, a class for each kind. Every
# one answers `run`, which yields its progress and gives its result as a Hash.
module DriveWork
  # What the kinds share.
  class Base
    # @param task [DriveTask]
    def initialize(task)
      @task = task
    end

    private

    def params = @task.params || {}
    def drive = @task.drive

    # @return [Evrel::Bench::Drive]
    # @raise [Evrel::Refused] where it is not there any more, or not as it was
    def attached
      @attached ||= begin
        found = AttachedDrives.of(drive) or
          raise Evrel::Refused.new('the drive is not attached any more', where: 'drive', hint: 'plug it in again')
        if @task.fingerprint && AttachedDrives.contents(found).fingerprint != @task.fingerprint
          raise Evrel::Refused.new('the drive is not as it was', where: "port #{found.port}", hint: 'look at it again')
        end

        found
      end
    end

    def reading
      disk = attached.open
      yield disk
    ensure
      disk&.close
    end

    # A last look by the rules, then the drive.
    def writing
      TargetVerdict.refuse!(attached, TargetVerdict.new(nil).of(attached))
      disk = attached.open(writable: true)
      yield disk
    ensure
      disk&.close
    end
  end
end
