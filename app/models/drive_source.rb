# frozen_string_literal: true

# A drive as it was when a docket sealed it as what it restores: its identity is
# that of the drive with just these contents.
class DriveSource < ActiveRecord::Base
  include Restorable

  belongs_to :drive
  belongs_to :computer, optional: true # whose system is on it

  attribute :document, :json

  # @return [Hash{Integer=>Array<String>}] id of each drive that an open docket restores from → their numbers
  def self.dockets
    seals = Seal.joins(:docket).where(broken_at: nil, dockets: { closed_at: nil }).where("source_key LIKE 'drive %'").includes(:docket)
    drives = where(id: seals.map { |seal| seal.decision.dig('source', 'id') }).pluck(:id, :drive_id).to_h
    seals.group_by { |seal| drives[seal.decision.dig('source', 'id')] }.transform_values { |list| list.map { |seal| seal.docket.number } }
  end

  # @return [Evrel::Image::Document]
  def document = @document ||= Evrel::Image::Document.new(super)

  # What can change of it is seen by whoever opens it.
  def gone_because = nil

  def source_name
    port = drive.last_port
    "the drive #{drive.maker} #{drive.model}#{" in port #{port}" if port}"
  end

  def source_place = "drive #{drive_id}"
  def drive_serial = drive.serial
  def unread_sectors = 0
  def shelf = nil
  def path = nil
  def state = 'drive'
  def checked_at = nil
end
