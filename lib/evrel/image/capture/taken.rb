# frozen_string_literal: true

require 'securerandom'

module Evrel
  module Image
    # What a capture knows of an image when all of it was taken: the document of
    # its manifest (docs/manifest.schema.json).
    #
    # map, disk, about and taken_at as Capture has them; stored: clusters; unread: places that could not be read; temporary:
    # files that are zeros; below: what it lies on top of; absent: as LeftOut#summary; locked: whether a passphrase opens it.
    Taken = Struct.new(:map, :disk, :about, :taken_at, :stored, :unread, :temporary, :below, :absent, :locked, keyword_init: true) do
      # @return [Hash]
      def document
        {
          'format' => Manifest::FORMAT, 'version' => version, 'id' => about.fetch('id') { SecureRandom.uuid },
          'taken_at' => taken_at.iso8601, 'made_by' => "evrel #{VERSION}",
          'computer' => about.fetch('computer', {}), 'drive' => about.fetch('drive', {}),
          'note' => about.fetch('note', ''),
          'disk' => { 'size_bytes' => disk.size, 'logical_sector' => map.table&.sector || disk.logical_sector,
                      'physical_sector' => disk.physical_sector, 'cluster_bytes' => CLUSTER, 'clusters' => stored },
          'used_bytes' => map.used_bytes, 'systems' => Systems.of(map), **special, 'left_out' => absent, **Description.of(map)
        }
      end

      private

      def version = map.parts.any?(&:passed_over) ? Manifest::IN_PARTS : Manifest::VERSION

      # What most images do not have.
      def special
        { 'unread' => (Unread.joined(unread) if unread.any?), 'temporary' => (temporary.map(&:to_h) if temporary.any?),
          'onto' => below&.to_h, 'locked' => ('luks1' if locked), 'kept_whole' => map.member }.compact
      end
    end
  end
end
