# frozen_string_literal: true

module StandIns
  # The file system of an attached drive: what is opened on it is cut off when
  # the drive is pulled.
  class Mount < Evrel::Shelf::Folder
    # @param path [String] where it is mounted
    # @param drive [Evrel::Bench::Drive]
    def initialize(path, drive)
      super(path)
      @drive = drive
    end

    def open(path) = Disk::Line.new(super, @drive.bench, @drive.handle, @drive.port)
  end
end
