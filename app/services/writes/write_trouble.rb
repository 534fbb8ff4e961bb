# frozen_string_literal: true

# Why a write stopped, what that affects, and what can be done: as it is kept
# with the write, and shown.
class WriteTrouble
  MOST_FILES = 20

  # @param write [Write]
  # @param error [Evrel::Restore::Trouble]
  def initialize(write, error)
    @write = write
    @error = error
  end

  # @return [WriteStop]
  def told
    SourceAccess.open(@write.source) do |image|
      @image = image
      stop(part:, part_name:, files:, choices: choices.compact)
    end
  rescue Evrel::Error
    # The shelf itself is away.
    stop(choices: [again])
  end

  private

  def stop(**more)
    WriteStop.new(side: @error.side, kind: @error.kind, message: @error.message, where: @error.where, cluster: @error.cluster,
                  offset: @error.offset, **more)
  end

  def choice(name, title, detail, image: nil)
    WriteStop::Choice.new(id: [name, image&.id].compact.join('-'), choice: name, image_id: image&.id, title:, detail:)
  end

  def place = @place ||= Evrel::Restore::Place.new(plan, @image)
  def plan = @plan ||= DocketLayout.new(@write.docket).plan
  def piece = @piece ||= @error.offset && place.piece_at(@error.offset)
  def part = @error.part || piece&.number
  def part_name = part && plan.pieces.find { |one| one.number == part }&.name

  # Byte of the image that the trouble is about.
  def at = @error.cluster ? @error.cluster * Evrel::Image::CLUSTER : (piece && place.in_image(@error.offset))

  def files
    return [] unless at

    @files ||= Evrel::Image::Damage.new(@image).files(lost).first(MOST_FILES)
  end

  # Of a drive, what of the cluster cannot be read.
  # @return [Array<(Integer, Integer)>] byte offset and length
  def lost
    number = at / Evrel::Image::CLUSTER
    missing = drive? && @error.kind == :unreadable ? @image.missing(number) : []
    missing.empty? ? [[number * Evrel::Image::CLUSTER, Evrel::Image::CLUSTER]] : missing
  end

  def choices
    return [again] if %i[away moved].include?(@error.kind)
    return [again, without] unless @error.side == :source

    [again, *others, zeros, zeros_all, without]
  end

  def again
    word = { away: 'Go on when it is back', moved: 'Go on in its new port', full: 'Go on' }.fetch(@error.kind, 'Try again')
    choice('again', word, 'It goes on from where it stopped')
  end

  # Other images of the computer that have the very same cluster.
  def others
    return [] unless @error.cluster && (digest = @image.digests.of(@error.cluster))

    candidates.filter_map do |image|
      next unless same?(image, digest)

      taken_at = image.taken_at.localtime.strftime('%-d %b %Y %H:%M')
      choice('other', "Take it from the image of #{taken_at}", 'It has the same cluster: the digest matches', image:)
    end
  end

  def candidates
    Image.where(computer_id: @write.source.computer_id, format: 'evrel-image').where.not(id: @write.source_id)
         .where.not(computer_id: nil).order(taken_at: :desc).limit(10)
  end

  def same?(image, digest)
    ImageAccess.open(image) { |opened| Evrel::Restore::Decisions.new(others: [opened]).cluster(@error.cluster, digest) }
  rescue Evrel::Error
    false # its shelf is away, or it is damaged too
  end

  def zeros
    return unless @error.cluster

    title = drive? ? 'Leave zeros for the sectors that cannot be read' : 'Leave zeros in its place'
    choice('zeros', title, files.empty? ? 'No file lies there' : "#{named_files} will be wrong there")
  end

  # An image with many damaged places need not ask for each.
  def zeros_all
    return unless @error.cluster && part

    choice('zeros_all', "Leave zeros wherever #{part_name} #{drive? ? 'cannot be read' : 'is damaged'}", 'Each place stands in the record')
  end

  def without
    return unless part

    choice('without', "Go on without #{part_name}", 'Its place stays empty; all other parts are written')
  end

  def drive? = @write.source.is_a?(DriveSource)

  def named_files
    names = files.map { |file| file[:path] || 'files that cannot be told' }
    names.size > 3 ? "#{names.first(3).join(', ')} and #{names.size - 3} more" : names.join(', ')
  end
end
