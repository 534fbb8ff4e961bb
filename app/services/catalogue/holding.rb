# frozen_string_literal: true

# Something whose files can be looked at: an image, or an attached drive as it
# is now. computer is its name or nil; of says what it is, for people; about
# goes with what is written down of a look.
Holding = Struct.new(:record, :computer, :taken_at, :of, :about, keyword_init: true) do
  class << self
    # @param kind [String] "images" or "drives"
    # @param id [Integer, String]
    # @return [Holding]
    # @raise [ActiveRecord::RecordNotFound]
    # @raise [Evrel::Refused] where the drive is not attached
    def find(kind, id)
      kind == 'images' ? of_image(Image.find(id)) : of_drive(Drive.find(id))
    end

    private

    def of_image(image)
      new(record: image, computer: image.computer&.name, taken_at: image.taken_at, of: "of the image of #{Words.time(image.taken_at)}",
          about: { image_id: image.id })
    end

    def of_drive(drive)
      attached = AttachedDrives.of!(drive)
      new(record: drive, computer: drive.computer&.name, taken_at: Time.now, of: "of the drive in port #{attached.port}",
          about: { drive_id: drive.id })
    end
  end

  # @yieldparam opened [Evrel::Image::Native, Evrel::Image::Foreign, Evrel::Image::Live] closed afterwards
  # @raise [Evrel::Error]
  def open(&) = record.is_a?(Image) ? ImageAccess.open(record, &) : DriveAccess.look(record, &)

  # @param part [Integer]
  # @yieldparam volume [Object] with directories
  def volume(part) = open { |opened| yield Evrel::Image::Contents.new(opened).browsable(part) }
end
