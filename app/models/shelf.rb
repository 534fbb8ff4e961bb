# frozen_string_literal: true

# A place that holds images: a folder, or the file system of a drive.
class Shelf < ActiveRecord::Base
  belongs_to :drive, optional: true
  has_many :images

  # A drive's shelf can be reached only while the drive is plugged in.
  def reachable? = (drive.nil? || !AttachedDrives.by_serial(drive.serial).nil?) && File.directory?(path)

  # Finds the images in it. What cannot be read is skipped and named.
  # @return [Array<String>] one message for each folder that is no good image
  def look_through
    Dir.children(path).sort.filter_map do |name|
      folder = File.join(path, name)
      next unless Evrel::Image::Native.at?(folder)

      take_in(name, folder)
    end.tap { update!(looked_at: Time.now) }
  end

  private

  def take_in(name, folder)
    manifest = Evrel::Image::Manifest.load(File.join(folder, Evrel::Image::Native::MANIFEST))
    images.find_or_initialize_by(folder: name).update!(
      uid: manifest.id, taken_at: manifest.taken_at, used_bytes: manifest.used_bytes, manifest: manifest.document,
      computer: Computer.find_by(system_identity: manifest.computer['system_identity'])
    )
    nil
  rescue Evrel::Error => e
    "#{name}: #{e.message}"
  end
end
