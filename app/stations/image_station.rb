# frozen_string_literal: true

module Stations
  # Which image goes onto the disk.
  class ImageStation < Station
    def view
      { images: candidates.map { |image| image_view(image) }, sealed_id: docket.image&.id,
        of_others: Image.where.not(computer: docket.computer).or(Image.where(computer: nil)).count }
    end

    def facts = docket.image ? facts_of(docket.image) : []

    # @param params [Hash] "image_id", "reason" (needed where the image was not checked)
    def seal(technician, params)
      check_order
      image = Image.find_by(id: params['image_id']) or
        raise Evrel::Refused.new('choose an image first', where: 'image')
      check_image(image, params['reason'])
      stamp(technician, "#{image.taken_at.getlocal.strftime('%-d %b %H:%M')}, #{state_word(image)}\n" \
                        "#{Evrel::Units.bytes(image.used_bytes)} used",
            { image_id: image.id, uid: image.uid, reason: params['reason'].presence },
            { state: image.state, checked_at: image.checked_at, facts: facts_of(image).map(&:to_h) })
    end

    def broken_evidence
      image = docket.image
      return 'the image is no longer in the catalogue' unless image
      return 'the image was found damaged' if image.damaged?

      'the image was replaced by another' unless image.uid == docket.seal('image').decision['uid']
    end

    private

    # This computer's images, newest first, then all others.
    def candidates
      @candidates ||= Image.includes(:shelf, :computer, :trial_starts).sort_by do |image|
        [image.computer_id == docket.computer_id ? 0 : 1, -image.taken_at.to_f]
      end
    end

    def image_view(image)
      { id: image.id, taken_at: image.taken_at.iso8601, taken_as_written: image.manifest['taken_at'],
        computer: image.computer&.name || image.manifest.dig('computer', 'name'), own: own?(image),
        state: image.state, checked_at: image.checked_at&.iso8601, used_bytes: image.used_bytes,
        size_bytes: image.document.size, shelf: image.shelf.name, reachable: image.shelf.reachable?,
        note: image.document.note, parts: image.document.partitions, relation: relation(image), why: why(image),
        trial: image.trial_starts.max_by(&:id)&.then { |trial| TrialView.of(trial) },
        damage: image.check_result, facts: facts_of(image).map(&:to_h) }
    end

    def own?(image) = image.computer_id == docket.computer_id

    def check_image(image, reason)
      raise Evrel::Refused.new('the image is damaged', where: image.folder, hint: 'choose another') if image.damaged?
      unless image.shelf.reachable?
        raise Evrel::Refused.new("shelf #{image.shelf.name} is not attached", where: 'image', hint: 'plug it in')
      end

      needs_reason(image) if reason.blank?

      image.open_image(&:table) # it can be read at this moment
    end

    # What is unusual is possible, but the docket says why.
    def needs_reason(image)
      raise Evrel::Refused.new('the image is of another computer', where: 'image', hint: 'say why it is the right one') unless own?(image)
      return if image.whole?

      raise Evrel::Refused.new('the image has not been checked', where: 'image', hint: 'check it, or give a reason for going on without')
    end

    def facts_of(image)
      @facts ||= {}
      @facts[image.id] ||= [origin(image), wholeness(image), completeness(image), reach(image), moment(image), tried(image)]
    end

    def origin(image)
      return fact('computer', :ok, 'Taken from this computer', 'Same system identity') if own?(image)

      fact('computer', :ask, "Taken from #{image.computer&.name || 'an unknown computer'}", 'Another system identity')
    end

    def wholeness(image)
      clusters = Evrel::Units.count(image.document.stored_clusters)
      case image.state
      when 'whole' then fact('whole', :ok, 'Whole', "#{clusters} clusters checked #{Words.ago(image.checked_at)}")
      when 'damaged' then fact('whole', :no, 'Damaged', damage(image))
      when 'checking' then fact('whole', :ask, 'Being checked', "#{clusters} clusters")
      else fact('whole', :ask, 'Not checked yet', "#{clusters} clusters have digests to check against")
      end
    end

    def damage(image)
      result = image.check_result
      return result['error'] if result['error']

      parts = result['places'].filter_map { |place| image.document.partition(place['part'])&.fetch('name') }.uniq
      "#{result['damaged']} clusters differ#{", in #{parts.join(', ')}" if parts.any?}"
    end

    def completeness(image)
      roles = image.document.partitions.map { |part| part['role'] }
      return fact('complete', :ask, 'No partition table', 'It holds a single volume') unless image.document.table?

      missing = %w[startup system] - roles
      return fact('complete', :ok, 'Everything that it needs to start', "#{part_names(image)} parts") if missing.empty?

      words = missing.map { |role| Evrel::Table::Types.role_name(role.to_sym).downcase }
      fact('complete', :no, "No #{words.join(' and no ')} part", 'It would not start from this image alone')
    end

    def part_names(image) = image.document.partitions.map { |part| part['name'] }.to_sentence

    def reach(image)
      return fact('shelf', :ok, "On shelf #{image.shelf.name}", 'Attached and readable') if image.shelf.reachable?

      fact('shelf', :no, "Shelf #{image.shelf.name} is not attached", 'Plug its drive in')
    end

    def moment(image)
      return fact('moment', :ask, 'Not known if it is from before', 'The docket does not say since when') unless
        docket.trouble_since

      gap = docket.trouble_since - image.taken_at
      return fact('moment', :ask, 'Taken after the trouble began', "#{Words.span(gap)} after") if gap.negative?

      fact('moment', :ok, 'From before the trouble', "#{Words.span(gap)} of work are not in it")
    end

    def tried(image)
      trial = image.trial_starts.select { |one| one.state == 'done' }.max_by(&:id)
      return fact('tried', :ask, 'Not yet seen to start', 'Try it in the emulator; nothing is written') unless trial
      return fact('tried', :ok, 'Seen to start', "In the emulator, #{Words.time(trial.updated_at)}") if trial.reached?

      fact('tried', :no, 'Did not start in the emulator', trial.message)
    end

    def relation(image)
      return unless docket.trouble_since

      gap = docket.trouble_since - image.taken_at
      gap.negative? ? "#{Words.span(gap)} after the trouble" : "#{Words.span(gap)} before the trouble"
    end

    # One line that says for or against it.
    def why(image)
      return 'Of another computer' unless own?(image)
      return damage(image) if image.damaged?
      return "Shelf #{image.shelf.name} is not attached" unless image.shelf.reachable?
      return 'Taken after the trouble began' if docket.trouble_since && image.taken_at > docket.trouble_since

      latest = candidates.find { |other| before_and_good?(other) }
      latest == image ? "Last #{'whole ' if image.whole?}image before the trouble" : 'Good, but older'
    end

    def before_and_good?(image)
      own?(image) && !image.damaged? && (docket.trouble_since.nil? || image.taken_at <= docket.trouble_since)
    end

    def state_word(image) = image.whole? ? 'whole' : 'not checked'
  end
end
