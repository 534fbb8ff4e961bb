# frozen_string_literal: true

module Stations
  # What goes onto the disk: an image, or a drive as it is now.
  class ImageStation < Station
    def view
      { images: ranked.list.map { |ranking, image| image_view(ranking, image) }, drives: drives.view,
        sealed_id: (docket.source.id if docket.source.is_a?(Image)), sealed_drive_id: docket.source.try(:drive_id),
        of_others: ranked.others, since: docket.trouble_since&.iso8601, noticed: docket.trouble_noticed&.iso8601,
        reason: docket.seal('image')&.decision&.dig('reason') }
    end

    def facts
      return docket.seal('image').evidence['facts'] if docket.source.is_a?(DriveSource)

      docket.source ? facts_of(docket.source) : []
    end

    # @param params [Hash] "image_id", or "drive_id" of a drive as it is; "reason" (needed where the image was not checked)
    def seal(technician, params)
      check_order
      meanwhile!(params)
      return seal_drive(technician, params) if params['drive_id']

      image = Image.there.find_by(id: params['image_id']) or
        raise Evrel::Refused.new('choose an image first', where: 'image')
      check_image(image, params['reason'])
      stamp(technician, "#{image.taken_at.getlocal.strftime('%-d %b %H:%M')}, #{state_word(image)}\n" \
                        "#{Evrel::Units.bytes(image.used_bytes)} used",
            { source: image.as_source, uid: image.uid, unread: image.unread_sectors, reason: params['reason'].presence },
            { state: image.state, checked_at: image.checked_at, facts: facts_of(image).map(&:to_h) })
    end

    private

    def drives = @drives ||= SourceDrives.new(docket, ranked.problem)

    def seal_drive(technician, params)
      record = Drive.lock.find_by(id: params['drive_id'])
      found = drives.find(params['drive_id'])
      readable!(found, record)
      unusual = drives.needs_reason(found)
      raise Evrel::Refused.new(unusual, where: 'source', hint: 'say why it is right all the same') if unusual && params['reason'].blank?

      source = DriveSource.create!(drive: record, computer: record.computer, taken_at: Time.now, **apart { read_off(found) })
      stamp(technician, "Port #{found.attached.port}, as it is now\n#{Evrel::Units.bytes(source.used_bytes)} used",
            { source: source.as_source, uid: source.uid, unread: 0, reason: params['reason'].presence },
            { facts: drives.facts(found).map(&:to_h) })
    end

    # Nobody may write to it, now or until the docket is done.
    def readable!(found, record)
      if record.docket && record.docket != docket
        raise Evrel::Refused.new("#{record.docket.number} has sealed it as its target", where: "port #{found.attached.port}")
      end
      if Write.exists?(drive: record, state: %w[queued running])
        raise Evrel::Refused.new('it is being written just now', where: 'source', hint: 'wait for its end')
      end

      DriveTask.idle!(record, kinds: DriveTask::WRITING)
    end

    # Each name as one that Ruby takes.
    def apart(&) = Evrel::Apart.call(&).transform_keys(&:to_sym)

    def read_off(found)
      opened = DriveAccess.live(found.attached)
      { uid: opened.uid, document: opened.manifest.document, used_bytes: opened.manifest.used_bytes }
    ensure
      opened&.close
    end

    def ranked = @ranked ||= RankedImages.new(docket)

    def image_view(ranking, image)
      ImageView.of(image, alone: false).merge(
        own: ranking.relation == :own, kin: ranking.relation, moment: ranking.moment, why: ranking.why, score: ranking.score,
        facts: marks(ranking), relation: relation(image), needs_reason: needs_reason(ranking, image)
      )
    end

    def marks(ranking) = ranking.marks.map { |mark| mark.fact.to_h.merge(weight: mark.weight) }

    def check_image(image, reason)
      raise Evrel::Refused.new('the image is damaged', where: image.path, hint: 'choose another') if image.damaged?
      if image.incomplete?
        raise Evrel::Refused.new("the image is not all there: #{image.problem}", where: image.path,
                                                                                 hint: 'choose another')
      end
      unless ShelfAccess.there?(image.shelf)
        raise Evrel::Refused.new("shelf #{image.shelf.name} is not attached", where: 'image', hint: 'plug it in')
      end

      unusual = needs_reason(ranked.of(image), image)
      if unusual && reason.blank?
        hint = [ImageWords.unread(image), 'say why it is right all the same'].compact.join('; ')
        raise Evrel::Refused.new(unusual, where: 'image', hint:)
      end

      SourceAccess.apart(image) { |opened| opened.table && nil } # it can be read at this moment
    end

    # What is unusual is possible, but the docket says why.
    def needs_reason(ranking, image)
      return 'the image is of another computer' unless %i[own unclear].include?(ranking.relation)
      return 'nothing in the image says whose it is' if ranking.relation == :unclear

      return 'the image has not been checked' unless image.whole?

      'not all of the disk could be read' if image.unread_sectors.positive?
    end

    def facts_of(image)
      # What a docket was sealed on without a check shows for good.
      skipped = docket.seal('image')&.decision&.dig('reason') if docket.source&.id == image.id
      ranked.of(image).facts + [skipped && fact('reason', :ask, 'Sealed with a reason', "“#{skipped}”")].compact
    end

    def relation(image)
      return unless docket.trouble_since

      gap = docket.trouble_since - image.taken_at
      return "#{Words.span(gap)} before the trouble" unless gap.negative?
      return 'while it began' if docket.trouble_noticed && image.taken_at < docket.trouble_noticed

      "#{Words.span(gap)} after the trouble began"
    end

    def state_word(image)
      return 'not checked' unless image.whole?

      image.unread_sectors.zero? ? 'whole' : "#{Evrel::Units.count(image.unread_sectors)} unread"
    end
  end
end
