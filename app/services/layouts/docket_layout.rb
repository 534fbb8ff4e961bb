# frozen_string_literal: true

require 'base64'

# The layout of a docket: what it is made of, what is wished, and the plan.
class DocketLayout
  attr_reader :docket

  # @param docket [Docket] with an image and a target
  def initialize(docket)
    @docket = docket
  end

  # @return [Evrel::Layout::Source]
  def source = known.source

  # @return [Array<(Hash, String)>] the sensible wish, and why
  def proposal = @proposal ||= Evrel::Layout::Proposal.for(source, target)

  # @return [Hash] the sealed wish, or what is being made of it, or the sensible one
  def wish = seal&.decision&.fetch('wish', nil) || draft || proposal.first

  # @return [Hash, nil] an unsealed wish, where it still makes sense
  def draft
    wish = docket.layout_draft or return
    plan_of(wish) && wish
  rescue Evrel::Refused
    nil # it was of another image
  end

  # @return [Evrel::Layout::Plan] valid or not
  # @raise [Evrel::Error] where the image cannot be read
  def plan = @plan ||= plan_of(wish)

  # @param wish [Hash]
  # @raise [Evrel::Refused] where it makes no sense
  def plan_of(wish)
    wish = Evrel::Layout::Wish.of(wish)
    Evrel::Layout::Planner.new(source, wish.part_restore? ? target_with_table : target, wish).plan
  end

  # @return [Array<Hash>] what would make an invalid plan valid: words, and the wish
  def remedies
    return [] if plan.valid? || source.kind.nil? || plan.part_restore?

    Evrel::Layout::Remedies.new(source, target, plan.wish).all.map { |words, wish| { words: words.sub(/\A./, &:upcase), wish: } }
  end

  # @return [Evrel::Layout::Target] without what is on it
  def target
    @target ||= Evrel::Layout::Target.new(size: docket.target.capacity, sector: kept('sector') || attached&.logical_sector || source.sector,
                                          physical_sector: attached&.physical_sector || 4096, table: nil,
                                          firmware: docket.computer.firmware)
  end

  # @return [Evrel::Layout::Target] with its table: the one that it had when the layout was sealed
  def target_with_table
    @target_with_table ||= target.dup.tap do |one|
      pieces = kept('scraps') || (attached ? on_drive : [])
      one.table = Evrel::Layout::Target.table_of(scraps(pieces)) if pieces.any?
    end
  end

  # Which files name identities that become others.
  # @return [Array<Hash>] path, old and new identity
  def rewrites
    known.references.select { |_, identity| plan.renewed.key?(identity) }
         .map { |path, identity| { path:, old: identity, new: plan.renewed[identity] } }
  end

  # What a seal keeps of the target: its table is needed again when it is no longer there.
  # @return [Hash]
  def evidence
    table = target_with_table.table if plan.part_restore?
    { sector: target.sector, scraps: table&.pieces(target.size)&.map { |offset, bytes| [offset, Base64.strict_encode64(bytes)] } }
  end

  # @return [Evrel::Bench::Drive, nil] the target, where it is attached
  def attached = @attached ||= AttachedDrives.of(docket.target)

  private

  def known = @known ||= LayoutSources.of(docket.source)
  def seal = docket.seal('layout')
  def kept(name) = seal&.decision&.fetch(name, nil)

  # Read in a process of its own; it comes as it would be written anew.
  # @return [Array<(Integer, String)>] byte offset and bytes (Base64) of each piece of its table; none where it has none
  def on_drive
    attached.apart do |disk|
      Evrel::Layout::Target.table_of(disk)&.pieces(disk.size).to_a.map { |offset, bytes| [offset, Base64.strict_encode64(bytes)] }
    end
  end

  def scraps(pieces)
    pieces = pieces.map { |offset, bytes| [offset, Base64.strict_decode64(bytes)] }
    Evrel::Disk::Scraps.new(pieces, size: target.size, logical_sector: target.sector)
  end
end
