# frozen_string_literal: true

module Stations
  # How the image is fitted to the target, before a byte is written.
  class LayoutStation < Station
    WAYS = { 'as_in_image' => 'As in the image', 'grow' => 'One part grows', 'spread' => 'Parts grow evenly', 'shrink' => 'Shrunk to fit',
             'by_hand' => 'By hand', 'part' => 'One part only' }.freeze
    MOST_SCRIPT = 1_048_576 # letters of a script or plan that comes in

    def view
      return { waits_for: docket.waits_for('layout') } unless docket.source && docket.target

      { image: { parts: docket.source.document.parts, size_bytes: docket.source.document.size }, **layout_view,
        now: sealed_evidence('now') || now_view, sealed: docket.sealed?('layout'), try: latest_try&.then { |tried| TryView.of(tried) },
        presets: LayoutPreset.includes(:technician).order(:name).map(&:view) }
    end

    def facts
      return [] unless docket.source && docket.target
      return sealed_evidence('facts') if docket.sealed?('layout')
      return [fact('fits', :no, 'It cannot be planned', read_problem.message)] if read_problem

      first, *rest = layout.plan.checks
      [first, loss, *rest, *(layout.plan.valid? ? identity + references : [])]
    end

    # @param params [Hash] "digest", where the page says which plan it shows
    def seal(technician, params)
      check_order
      meanwhile!(params)
      raise read_problem if read_problem

      plan = layout.plan.valid!
      raise Evrel::Refused.new('the layout is another now: look at it again', where: 'layout') if
        params['digest'] && params['digest'] != plan.digest

      stamp(technician, summary(plan), { way: plan.wish.way, wish: plan.wish.to_h, digest: plan.digest, **layout.evidence },
            { facts: facts.map(&:to_h), now: now_view })
    end

    # Keeps what is being made of the layout; nothing is sealed by it.
    # @param wish [Hash]
    # @raise [Evrel::Refused] where it makes no sense
    def draft(wish)
      check_order
      raise Evrel::Refused.new('the layout is sealed: break the seal first', where: 'layout') if docket.sealed?('layout')

      layout.plan_of(wish)
      keep(wish)
    end

    # Back to the sensible wish.
    def reset
      check_order
      keep(nil) unless docket.sealed?('layout')
    end

    # @param text [String] a plan as JSON, or a script for sfdisk
    # @return [Hash] the wish in it
    # @raise [Evrel::Refused] with what is wrong
    def read(text)
      raise Evrel::Refused.new('the file is too large for a layout', where: 'file') if text.to_s.size > MOST_SCRIPT
      return Evrel::Layout::Script.wish(text, layout.source) unless text.to_s.lstrip.start_with?('{')

      given = JSON.parse(text)
      given.key?('wish') ? given['wish'] : given
    rescue JSON::ParserError => e
      raise Evrel::Refused.new("the file is no JSON: #{e.message[0, 120]}", where: 'file')
    end

    # @return [Evrel::Layout::Plan] that was sealed, or that is being made
    # @raise [Evrel::Error]
    def plan = layout.plan

    # @return [DocketLayout]
    # @raise [Evrel::Refused] before there is an image and a target to make one for
    def layout
      check_earlier
      @layout ||= DocketLayout.new(docket)
    end

    # Begins a dry run of the plan.
    # @return [LayoutTry]
    # @raise [Evrel::Refused, Evrel::DoesNotFit]
    def try(technician)
      plan = layout.plan.valid!
      return latest_try if latest_try&.open? && latest_try.digest == plan.digest

      latest_try&.discard
      docket.layout_tries.create!(technician:, digest: plan.digest, wish: plan.wish.to_h, progress: {}).tap do |made|
        Event.add('layout_try', 'Dry run of the layout begun', docket:, technician:)
        made.enqueue
      end
    end

    private

    def keep(wish)
      docket.update!(layout_draft: wish)
      @layout = nil
    end

    def layout_view
      return { problem: { title: 'It cannot be planned', message: read_problem.message, hint: read_problem.hint } } if read_problem

      LayoutView.new(layout).view
    end

    # Where the image cannot be read at all.
    def read_problem
      return @read_problem if defined?(@read_problem)

      @read_problem = begin
        layout.plan && nil
      rescue Evrel::Error => e
        e
      end
    end

    def summary(plan)
      changed = plan.parts.select(&:resized?).map { |place| "#{place.part.word} #{Evrel::Units.bytes(place.size)}" }
      words = changed.empty? ? "#{Evrel::Units.bytes(plan.free_at_end)} unallocated" : changed.first(2).join(', ')
      "#{WAYS.fetch(plan.wish.way)}\n#{words}"
    end

    def latest_try = docket.layout_tries.order(:id).last
    def attached = layout.attached
    def target_contents = AttachedDrives.of(docket.target)&.then { |drive| AttachedDrives.shown(drive) }
    def now_view = { parts: target_contents&.parts || [], size_bytes: docket.target.capacity }

    # After the write the disk holds something else: a seal keeps what it was made on.
    def sealed_evidence(key) = docket.seal('layout')&.evidence&.fetch(key, nil)

    # Two attached disks with one identity confuse loaders and firmware.
    def identity
      table = layout.plan.table
      return [] if table.nil? || layout.plan.part_restore?

      twin = AttachedDrives.list.find do |drive|
        drive.serial != docket.target.serial && AttachedDrives.contents(drive).disk_guid == table.guid
      end
      return [fact('identity', :ok, 'No other disk has its identity', 'Among the attached drives')] unless twin

      [fact('identity', :ask, "Same disk identity as port #{twin.port}",
            'Take that drive out before the first start, or give this one a new identity')]
    end

    # What would look for parts by identities that are no longer there.
    def references
      changed = layout.rewrites
      return [] if layout.plan.renewed.empty?
      if changed.empty?
        return [fact('references', :ok, 'Nothing names the old identities',
                     'No fstab, loader entry, GRUB configuration or store')]
      end

      files = Evrel::Units.list(changed.map { |one| one[:path] }.uniq)
      if layout.plan.wish.rewrite?
        return [fact('references', :ok, 'What names the old identities is rewritten', files),
                firmware_entries].compact
      end

      [fact('references', :no, 'It would not find its parts', "#{files} names the old identities, and is left as it is"),
       firmware_entries].compact
    end

    def firmware_entries
      return unless docket.computer.firmware == 'uefi'

      fact('entries', :ask, 'The computer’s own start entry goes void',
           'It names the start-up part by its old identity: the firmware looks for EFI/BOOT instead')
    end

    def loss
      parts = lost_parts
      alone = read_problem.nil? && layout.plan.part_restore?
      return fact('loss', :ok, 'Nothing is lost', alone ? 'It goes into free room' : 'The target is empty') if parts.empty?

      fact('loss', :no, "#{Evrel::Units.bytes(parts.sum { |part| part['volume']['used_bytes'] })} of old data is lost",
           parts.map { |part| part['volume']['label'] || part['name'] }.reject(&:blank?).join(', '))
    end

    def lost_parts
      parts = target_contents&.parts.to_a
      return parts unless read_problem.nil? && layout.plan.part_restore?

      parts.select { |part| part['number'] == layout.plan.wish.over }
    end
  end
end
