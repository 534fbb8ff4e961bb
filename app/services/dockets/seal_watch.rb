# frozen_string_literal: true

# Breaks the seals whose evidence has changed.
class SealWatch
  # Of all dockets that have sealed this station.
  # @param station [String]
  def self.check_all(station)
    Docket.where(closed_at: nil).where(id: Seal.where(broken_at: nil, station:).select(:docket_id)).find_each { |docket| new(docket).check }
  end

  def initialize(docket)
    @docket = docket
  end

  # @return [void]
  def check
    return if @docket.writing? || @docket.closed_at

    { 'image' => method(:image), 'target' => method(:target) }.each do |station, why|
      next unless @docket.sealed?(station)

      because = why.call or next
      return Unseal.from(@docket, station, because:)
    end
  end

  private

  # @return [String, nil] why the seal of the source no longer holds
  def image
    source = @docket.source
    return 'the image is no longer in the catalogue' unless source

    return changed(source) if source.is_a?(DriveSource)

    source.gone_because || ('the image was replaced by another' unless source.uid == @docket.seal('image').decision['uid'])
  end

  # A drive that is merely away breaks nothing; once writing began, it has done its part.
  def changed(source)
    return if @docket.write

    attached = AttachedDrives.of(source.drive) or return
    "the drive in port #{attached.port} is not as it was when it was sealed as the source" unless DriveAccess.uid(attached) == source.uid
  end

  # A drive that is merely away breaks nothing: the write will not begin. One
  # that came back changed does. Once writing began, it is bound to change.
  def target
    return if @docket.write

    attached = AttachedDrives.of(@docket.target) or return
    differences = @docket.seal('target').identity.differences(AttachedDrives.identity(attached))
    "the drive on port #{attached.port} is not as it was sealed: #{differences.join('; ')}" if differences.any?
  end
end
