# frozen_string_literal: true

require 'fileutils'
require 'openssl'
require 'securerandom'

module Evrel
  module Image
    # Takes an image of a disk: its used blocks only, each cluster with its
    # digest. The folder appears under its name when it is complete.
    class Capture
      BATCH = 32 # clusters per job: 2 MiB
      ZEROS = "\0".b * CLUSTER

      # @param disk [Disk] is only read
      # @param folder [String] must not exist
      # @param about [Hash] for the manifest: "computer", "drive", "note"
      # @param taken_at [Time]
      # @param tolerate_unread [Boolean] goes on where sectors cannot be read:
      #   zeros stand in their place, and the manifest lists them
      def initialize(disk, folder, about: {}, taken_at: Time.now, tolerate_unread: false)
        @disk = disk
        @tolerant = tolerate_unread
        @unread = Unread.new(disk, tolerant: tolerate_unread)
        @folder = folder
        @about = about
        @taken_at = taken_at
      end

      # @yieldparam done [Integer] bytes of used clusters so far
      # @yieldparam total [Integer] bytes of used clusters in all
      # @return [Manifest]
      # @raise [Refused] where the folder exists
      # @raise [Damaged]
      # @raise [Unreadable] also where too much cannot be read, or the table
      def run(&)
        raise Refused.new("#{@folder} is there already", where: @folder) if ::File.exist?(@folder)

        @map = UsedMap.new(@disk)
        @left_out = LeftOut.new(@map, @disk.size)
        @work = "#{@folder}.part-#{SecureRandom.hex(4)}"
        Room.guard(::File.dirname(@folder), -> { left }) do
          FileUtils.mkdir_p(@work)
          @absent = account
          finish(copy_clusters(&))
        end
      ensure
        FileUtils.rm_rf(@work) if @work
      end

      private

      # @return [Integer] bytes of clusters that are not in the image yet; packed they take less
      def left = ((@map.each_cluster.count - @stored.to_i) * CLUSTER).clamp(0, nil)

      # What will not be in the image, before anything of it is there.
      # @return [Array<Hash>] as LeftOut#summary
      def account
        summary = @left_out.summary
        ::File.open(in_work(Native::LEFT_OUT), 'w') do |file|
          file.puts 'offset,length,part,map'
          @left_out.each { |range| file.puts [range.offset, range.length, range.part, range.map].join(',') }
        end
        summary
      end

      # Both files are closed, whatever comes of closing the other: an open one keeps its room after it was removed.
      def copy_clusters(&)
        qcow2 = Qcow2Writer.new(in_work(Native::DISK), @disk.size)
        digests = Digests::Writer.new(in_work(Native::DIGESTS))
        begin
          fill(qcow2, digests, &)
        ensure
          digests.close
        end
      ensure
        qcow2&.close
      end

      def fill(qcow2, digests)
        total = @map.each_cluster.count * CLUSTER
        Pipeline.each(@map.each_cluster.each_slice(BATCH), method(:prepare), apart: forked?(total),
                                                                             room: BATCH * CLUSTER) do |clusters, bytes|
          at = 0
          clusters.each do |index, size, digest|
            qcow2.add(index, bytes.byteslice(at, size))
            digests.add(index, digest)
            at += size
          end
          @stored = digests.count
          yield digests.count * CLUSTER, total if block_given?
        end
        digests.count
      end

      # What cannot be read is listed in this process.
      def forked?(total) = @disk.fork_safe? && !@tolerant && total > Crew::WORTH * CLUSTER

      # Read, digest, compress. @return [Array<(Integer, Integer, String)>] number, bytes it takes, digest
      def prepare(batch, out)
        batch.map do |index, ranges|
          data = cluster(index, ranges)
          kept = data == ZEROS ? '' : packed(data)
          out << kept
          [index, kept.bytesize, Digests.of(data)]
        end
      end

      # What does not get smaller stays as it is.
      def packed(data)
        frame = Codec::Zstd.compress(data)
        frame.bytesize < data.bytesize ? frame : data
      end

      # What is not used within a cluster is zero: it says nothing, and packs well.
      def cluster(index, ranges)
        base = index * CLUSTER
        return @unread.read(base, CLUSTER) if ranges == [[0, CLUSTER]]

        data = ZEROS.dup
        ranges.each { |within, length| data[within, length] = @unread.read(base + within, length) }
        data
      end

      def finish(stored)
        manifest = Manifest.new(document(stored))
        ::File.write(in_work(Native::MANIFEST), "#{manifest.to_json}\n")
        ::File.write(in_work(Native::LAYOUT), Table::SfdiskScript.dump(@map.table)) if @map.table
        write_sums
        ::File.rename(@work, @folder)
        @work = nil
        manifest
      end

      def document(stored)
        {
          'format' => Manifest::FORMAT, 'version' => Manifest::VERSION, 'id' => SecureRandom.uuid,
          'taken_at' => @taken_at.iso8601, 'made_by' => "evrel #{VERSION}",
          'computer' => @about.fetch('computer', {}), 'drive' => @about.fetch('drive', {}),
          'note' => @about.fetch('note', ''),
          'disk' => { 'size_bytes' => @disk.size, 'logical_sector' => @map.table&.sector || @disk.logical_sector,
                      'physical_sector' => @disk.physical_sector, 'cluster_bytes' => CLUSTER, 'clusters' => stored },
          'used_bytes' => @map.used_bytes, 'systems' => Systems.of(@map),
          **unread, 'left_out' => @absent, **kept_whole, **Description.of(@map)
        }
      end

      def kept_whole = @map.member ? { 'kept_whole' => @map.member } : {}

      def unread = @unread.ranges.empty? ? {} : { 'unread' => @unread.ranges }

      def write_sums
        names = [Native::DISK, Native::DIGESTS, Native::LAYOUT, Native::LEFT_OUT, Native::MANIFEST]
        lines = names.select { |name| ::File.exist?(in_work(name)) }.map do |name|
          "#{sum(in_work(name))}  #{name}\n"
        end
        ::File.write(in_work(Native::SUMS), lines.join)
      end

      # OpenSSL's is much faster than Ruby's own.
      def sum(path)
        sha = OpenSSL::Digest.new('SHA256')
        piece = ''.b
        ::File.open(path, 'rb') { |io| sha << piece while io.read(MIB, piece) }
        sha.hexdigest
      end

      def in_work(name) = ::File.join(@work, name)
    end
  end
end
