# frozen_string_literal: true

module StandIns
  # The file system of an attached drive: what is opened on it is cut off when
  # the drive is pulled.
  class Mount < Evrel::Shelf::Folder
    # @param path [String] where it is mounted
    # @param drive [Evrel::Bench::Drive]
    # @param others [Integer] bytes of what lies on it besides, which nobody made
    def initialize(path, drive, others: 0)
      super(path)
      @drive = drive
      @others = others
    end

    # As large as its drive.
    def room
      taken = Dir.glob('**/*', base: root).sum { |path| ::File.lstat(::File.join(root, path)).blocks.to_i * 512 }
      [[@drive.capacity - @others - taken, 0].max, @drive.capacity]
    end

    def open(path) = Disk::Line.new(super, @drive.bench, @drive.handle, @drive.port)
  end
end
