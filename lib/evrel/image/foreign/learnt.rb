# frozen_string_literal: true

module Evrel
  module Image
    # What an image that is not our own says about itself: the same document
    # as a manifest, from its table, its volumes and the files inside.
    module Learnt
      # Bytes of a packed disk that are unpacked to recognise it.
      HEAD = 2 * MIB

      module_function

      # @param disk [Disk]
      # @param format [String]
      # @param uid [String]
      # @param members [Array<Shelf::Entry>]
      # @param findings [Array<String>]
      # @param map [UsedMap]
      # @param locked [Boolean] whether a passphrase opened it
      # @return [Document]
      def document(disk, format:, uid:, members:, map:, findings: [], clusters: nil, locked: false)
        Document.new({ **heading(format, uid, members), **(locked ? { 'locked' => 'luks1' } : {}),
**contents_of(disk, map, clusters, findings) })
      end

      # A drive as it is now.
      # @param taken_at [Time]
      # @param about [Hash] "computer" and "drive", as in a manifest
      # @return [Document]
      def of_drive(disk, uid:, taken_at:, about:, map:)
        Document.new({ **heading(Live::FORMAT, uid, []), 'taken_at' => taken_at.getlocal.iso8601, 'taken_by_file_date' => false, **about,
                                                         **contents_of(disk, map, nil, []) })
      end

      def contents_of(disk, map, clusters, findings)
        { 'systems' => Systems.of(map), 'findings' => findings + (map.table&.findings || []),
          'disk' => shape_of(disk.size, map.table&.sector || disk.logical_sector, clusters || map.each_cluster.count),
          'used_bytes' => map.used_bytes, 'left_out' => LeftOut.new(map, disk.size).summary,
          **(map.member ? { 'kept_whole' => map.member } : {}), **Description.of(map) }
      end

      # What the beginning of a packed disk tells: its table, without what is in the volumes.
      # @param head [String]
      # @return [Document, nil] nil where it begins like no disk
      def provisional(head, format:, uid:, members:)
        disk = Disk::Head.new(head)
        table = Table::Mbr.read(disk, logical: false) || Table::Gpt.read(disk)
        volume = table ? nil : Volume.recognise(disk)
        return if table.nil? && volume.is_a?(Volume::Unknown)

        Document.new({ **heading(format, uid, members),
                       'systems' => [], 'findings' => [], 'provisional' => true, 'used_bytes' => 0,
                       'disk' => shape_of(volume&.size || disk.size, table&.sector, 0), **contents(table, volume) })
      rescue Damaged
        nil
      end

      # An image that cannot be opened now: all that is known is that it is there.
      # @param size [Integer, nil] bytes of the disk
      # @return [Document]
      def closed(format:, uid:, members:, size:, problem:)
        Document.new({ **heading(format, uid, members),
                       'systems' => [], 'findings' => [problem], 'used_bytes' => 0, 'table' => nil,
                       'disk' => shape_of([size.to_i / 512 * 512, 512].max, nil, 0) })
      end

      # What a passphrase opens says nothing of itself but its size.
      # @param size [Integer, nil] bytes of the disk
      # @return [Document]
      def locked(format:, uid:, members:, size:)
        Document.new({ **heading(format, uid, members), 'locked' => 'luks1',
                                                        'systems' => [], 'findings' => [], 'used_bytes' => 0, 'table' => nil,
                                                        'disk' => shape_of([size.to_i / 512 * 512, 512].max, nil, 0) })
      end

      # No one wrote down when it was taken: the newest of its files has to do.
      def heading(format, uid, members)
        newest = members.filter_map(&:modified_at).max || Time.at(0)
        { 'format' => format, 'id' => uid, 'taken_at' => newest.getlocal.iso8601, 'taken_by_file_date' => true, 'made_by' => '',
          'computer' => {}, 'drive' => {}, 'note' => '', 'members' => members.map(&:path) }
      end

      def shape_of(size, sector, clusters)
        { 'size_bytes' => size, 'logical_sector' => sector || 512, 'physical_sector' => 4096, 'cluster_bytes' => CLUSTER,
          'clusters' => clusters }
      end

      def contents(table, volume)
        return { 'table' => nil, 'volume' => unread(volume) } unless table

        { 'table' => { 'kind' => table.kind, 'guid' => table.guid, 'sector' => table.sector, 'first_usable' => table.first_usable,
                       'last_usable' => table.last_usable, 'findings' => [],
                       'partitions' => table.partitions.map { |part| Description.entry(part).merge('volume' => unread(nil)) } } }
      end

      def unread(volume)
        { 'kind' => volume&.kind || 'unread', 'label' => volume&.label, 'uuid' => volume&.uuid, 'size_bytes' => volume&.size || 0,
          'block_size' => volume&.block_size || 512, 'used_bytes' => 0, 'clean' => nil }
      end
      private_class_method :heading, :shape_of, :contents, :contents_of, :unread
    end
  end
end
