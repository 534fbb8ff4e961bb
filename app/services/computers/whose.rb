# frozen_string_literal: true

# Images whose computer is not known, disk by disk, each with the computers that
# it may be of, and why.
class Whose
  MOST = 20     # disks that are told
  COMPUTERS = 3 # proposed for each

  # @return [Hash] count (of images), and disks: image, others (images of the same disk) and computers
  def told
    { count: unowned.count, disks: disks.first(MOST).map { |images| disk(images) } }
  end

  private

  # Of a disk of which somebody has said so, neither are later images.
  def unowned
    said = Image.where(nobodys: true).where.not(disk_guid: nil).select(:disk_guid)
    open = Image.there.where(computer: nil, nobodys: false).where.not(state: 'incomplete')
    open.where(disk_guid: nil).or(open.where.not(disk_guid: said))
  end

  # Images without an identity of their disk stand for themselves.
  # @return [Array<Array<Image>>] the disk with the newest image first
  def disks
    unowned.includes(:shelf).order(taken_at: :desc).limit(1000).group_by { |image| image.disk_guid || "image #{image.id}" }.values
  end

  def disk(images)
    image = images.first
    found = reasons(image).group_by(&:first).sort_by { |_, why| -why.size }.first(COMPUTERS)
    { image: { id: image.id, taken_at: image.taken_at.iso8601, shelf: image.shelf.name, path: image.path, host: image.host,
               model: image.model },
      others: images.size - 1,
      computers: found.map { |computer, why| { id: computer.id, name: computer.name, place: computer.place, why: why.map(&:last) } } }
  end

  # @return [Array<(Computer, String)>] the surest first
  def reasons(image)
    [*by_drive(image), *by_disk(image), *by_name(image), *by_model(image)].reject { |computer, _| computer.retired_at }
  end

  def by_drive(image)
    owner = image.drive_serial && Drive.find_by(serial: image.drive_serial)&.computer
    owner ? [[owner, "it was taken of its drive #{image.drive_serial}"]] : []
  end

  def by_disk(image)
    return [] unless image.disk_guid

    Computer.where(id: Image.where(disk_guid: image.disk_guid).select(:computer_id))
            .or(Computer.where(id: Drive.where(disk_guid: image.disk_guid).select(:computer_id)))
            .map { |one| [one, 'its disk has the identity of one of its own'] }
  end

  def by_name(image)
    given = { 'name' => image.host || image.document.computer['name'], 'identity' => image.system_identity }
    Alike.new(given).list.map { |one, why| [one, "#{why}: #{given['name']}"] }
  end

  # Of few only: many are of one model.
  def by_model(image)
    return [] unless image.model

    found = Computer.in_use.where(model: image.model).limit(COMPUTERS + 1).to_a
    found.size > COMPUTERS ? [] : found.map { |one| [one, "the same model: #{image.model}"] }
  end
end
