# frozen_string_literal: true

module DriveWork
  # Takes an image of a drive before it is overwritten, read errors tolerated.
  class Image < Base
    def run
      folder = File.join(@task.shelf.path, params.fetch('name'))
      FileUtils.mkdir_p(File.dirname(folder))
      manifest = (finished(folder) if params['again']) || reading do |disk|
        Evrel::Image::Capture.new(disk, folder, about:, tolerate_unread: true).run do |taken|
          stop if yield({ done: taken.done, total: taken.total }) == :stop
        end
      end
      LookThrough.new(@task.shelf).run
      { folder: params['name'], bytes: manifest.used_bytes, unread: manifest.unread_sectors }
    end

    private

    # The folder has its name only when it is complete; what was cut off before goes.
    def finished(folder)
      FileUtils.rm_rf(Dir["#{folder}.part-*"])
      Evrel::Image.open(folder).manifest if File.directory?(folder)
    end

    def stop = raise(Evrel::Stopped, 'taking the image was stopped; nothing is kept of it')

    def about
      computer = drive.computer
      { 'note' => params['note'].to_s,
        'computer' => if computer
                        { 'name' => computer.name, 'model' => computer.model, 'firmware' => computer.firmware,
                          'system_identity' => computer.system_identity }.compact
                      else
                        {}
                      end,
        'drive' => { 'maker' => drive.maker, 'model' => drive.model, 'serial' => drive.serial, 'capacity_bytes' => drive.capacity,
                     'bus' => drive.bus }.compact }
    end
  end
end
