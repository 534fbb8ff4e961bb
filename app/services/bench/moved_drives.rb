# frozen_string_literal: true

# Drives whose contents were moved to another one that was signed off. Each is
# the way back for a while, and may be cleaned after that.
class MovedDrives
  KEPT = 14.days

  # Docket that was signed off, and what it restored from.
  Move = Struct.new(:docket, :source) do
    def at = docket.closed_at
    def kept_until = at + KEPT
    def over? = kept_until < Time.now
    def words = "#{[docket.write.drive.maker, docket.write.drive.model].compact.join(' ')} by #{docket.number}"
  end

  # @return [Hash{Integer=>Move}] id of each drive → its newest move
  def self.all
    seals = Seal.joins(:docket).where(broken_at: nil).where("source_key LIKE 'drive %'").where.not(dockets: { closed_at: nil })
    signed = seals.where(docket_id: Seal.where(station: 'start', broken_at: nil).select(:docket_id)).includes(docket: { writes: :drive })
    moves = signed.filter_map { |seal| move(seal.docket) }
    moves.sort_by(&:at).to_h { |one| [one.source.drive_id, one] }
  end

  # @param docket [Docket]
  # @return [Move, nil] where it was moved and signed off
  def self.move(docket)
    source = docket.source
    Move.new(docket, source) if source.is_a?(DriveSource) && docket.write&.verified && docket.closed_at && docket.sealed?('start')
  end

  # @param moves [Hash] as in `all`
  # @param record [Drive]
  # @param attached [Evrel::Bench::Drive]
  # @param contents [Evrel::Survey]
  # @return [Hash, nil] as Evrel::Safety::Candidate wants it; nil where something else is on it by now
  def self.fact(moves, record, attached, contents)
    one = moves[record.id]
    return if one.nil? || one.source.uid != Evrel::Image::Live.uid(attached.key, contents.fingerprint.to_s)

    { 'to' => one.words, 'ago' => Time.now - one.at, 'kept' => (one.kept_until unless one.over?) }
  end
end
