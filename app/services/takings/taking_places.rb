# frozen_string_literal: true

# The shelves onto which an image of a drive could go, and what speaks against
# each.
class TakingPlaces
  # @param shelf [Shelf]
  # @return [Integer, nil] bytes that are free on it now
  def self.free(shelf)
    ShelfAccess.open(shelf).room&.first
  rescue SystemCallError, Evrel::Error
    shelf.free_bytes
  end

  # @param drive [Drive]
  def initialize(drive)
    @drive = drive
  end

  # @return [Array<Hash>] id, name, free_bytes, total_bytes, state (ok, ask or no) and why, those that can take it first
  def all
    Shelf.where(kind: %w[folder drive]).includes(:drive).order(:name).map { |shelf| view(shelf) }
         .sort_by.with_index { |one, at| [%w[ok ask no].index(one[:state]), at] }
  end

  # @raise [Evrel::Refused] where nothing can be kept there
  def refuse!(shelf)
    state, why = judged(shelf)
    raise Evrel::Refused.new("#{shelf.name}: #{why}", where: shelf.name, hint: 'choose another shelf') if state == 'no'
  end

  private

  def view(shelf)
    state, why = judged(shelf)
    free = state == 'no' ? shelf.free_bytes : TakingPlaces.free(shelf)
    { id: shelf.id, name: shelf.name, kind: shelf.kind, free_bytes: free, total_bytes: shelf.total_bytes, read_speed: shelf.read_speed,
      state:, why:, spare: spare[shelf.id] }
  end

  # What could be given up on it, to make room.
  def spare = @spare ||= KeepRule.new.by_shelf

  def judged(shelf)
    return ['no', 'a web place takes no files'] if shelf.kind == 'web'
    return ['no', 'it lies on this very drive'] if shelf.drive_id == @drive.id
    return ['no', ShelfAccess.new(shelf).whereabouts] unless ShelfAccess.there?(shelf)
    return ['no', 'nothing can be written there'] unless File.writable?(shelf.path)

    same_computer?(shelf) ? ['ask', "it lies in #{@drive.computer.name} too: what happens to one may happen to both"] : ['ok', nil]
  end

  def same_computer?(shelf) = @drive.computer_id && shelf.drive && shelf.drive.computer_id == @drive.computer_id
end
