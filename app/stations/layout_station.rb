# frozen_string_literal: true

module Stations
  # How the image is fitted to the target, before a byte is written.
  class LayoutStation < Station
    def view
      return { waits_for: docket.waits_for('layout') } unless docket.image && docket.target

      { image: { parts: docket.image.document.partitions, size_bytes: docket.image.document.size },
        after: after_view, now: sealed_evidence('now') || now_view,
        problem: plan_problem&.to_h, sealed: docket.sealed?('layout') }
    end

    def facts
      return [] unless docket.image && docket.target
      return sealed_evidence('facts') if docket.sealed?('layout')
      return [fact('fits', :no, 'It does not fit', plan_problem.message)] if plan_problem

      [*plan.facts(seen&.physical_sector || 4096), start_way, identity, loss]
    end

    def seal(technician, _params)
      check_order
      raise Evrel::Refused.new(plan_problem.message, where: 'layout', hint: plan_problem.hint) if plan_problem

      stamp(technician, "As in the image\n#{Evrel::Units.bytes(plan.free_at_end)} unallocated",
            { way: 'as_in_image', digest: plan.digest }, { facts: facts.map(&:to_h), now: now_view })
    end

    # @return [Evrel::Layout::Plan]
    # @raise [Evrel::DoesNotFit]
    def plan
      @plan ||= docket.image.open_image do |opened|
        Evrel::Layout.as_in_image(opened, docket.target.capacity, seen&.logical_sector || opened.manifest.logical_sector)
      end
    end

    private

    def seen = @seen ||= docket.target.seen
    def target_contents = seen && AttachedDrives.shown(seen)
    def now_view = { parts: target_contents&.parts || [], size_bytes: docket.target.capacity }

    # After the write the disk holds something else: a seal keeps what it was made on.
    def sealed_evidence(key) = docket.seal('layout')&.evidence&.fetch(key, nil)

    def plan_problem
      return @plan_problem if defined?(@plan_problem)

      @plan_problem = begin
        plan && nil
      rescue Evrel::Error => e
        e
      end
    end

    def after_view
      return if plan_problem

      parts = docket.image.document.partitions.map { |part| part.merge('change' => 'as is') }
      { parts:, size_bytes: plan.target_size, free_at_end: plan.free_at_end }
    end

    def start_way
      computer = docket.computer
      return fact('starts', :ok, 'Starts the same way', "GPT and UEFI, as #{computer.name} expects") if
        plan.table && computer.firmware == 'uefi'

      fact('starts', :ask, 'Look at how it starts', "#{computer.name} starts by #{computer.firmware.upcase}")
    end

    # Two attached disks with one identity confuse loaders and firmware.
    def identity
      twin = AttachedDrives.list.find do |drive|
        drive.serial != docket.target.serial && plan.table && AttachedDrives.contents(drive).disk_guid == plan.table.guid
      end
      return fact('identity', :ok, 'No other disk has its identity', 'Among the attached drives') unless twin

      fact('identity', :ask, "Same disk identity as port #{twin.port}", 'Take that drive out before the first start')
    end

    def loss
      parts = target_contents&.parts.to_a
      used = parts.sum { |part| part['volume']['used_bytes'] }
      return fact('loss', :ok, 'Nothing is lost', 'The target is empty') if parts.empty?

      fact('loss', :no, "#{Evrel::Units.bytes(used)} of old data is lost",
           parts.map { |part| part['volume']['label'] || part['name'] }.reject(&:blank?).join(', '))
    end
  end
end
