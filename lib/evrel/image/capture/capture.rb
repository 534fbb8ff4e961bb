# frozen_string_literal: true

require 'fileutils'
require 'securerandom'

module Evrel
  module Image
    # Takes an image of a disk: its used blocks only, each cluster with its
    # digest. The folder appears under its name when it is complete. Until then
    # its files lie beside it; where a name for them is given, the taking goes on
    # from there after it was cut off.
    class Capture
      BATCH = 32 # clusters per job: 2 MiB
      ZEROS = ("\0".b * CLUSTER).freeze
      NOTED = 5 # seconds between two notes of how far it is

      # @return [Check::Result, nil] what came of reading it back, where that was wished and could be done here
      attr_reader :checked

      # @param disk [Disk] is only read
      # @param folder [String] must not exist
      # @param about [Hash] for the manifest: "computer", "drive", "note"; "id", where that is known before
      # @param taken_at [Time]
      # @param unfinished [String, nil] folder of the files until they are complete, on the same file system: it stays
      #   where the taking is cut off, and the same taking goes on from it
      # @param beside [Hash{String=>String}] name in the image → path of a file that is put there too
      # @param onto [String, nil] folder of a whole image of the same drive: only what differs from it is in the new one,
      #   which names it by its relative path
      # @param passphrase [String, nil] what opens it; it is kept nowhere
      # @param how [Hash] as CaptureOptions
      def initialize(disk, folder, about: {}, taken_at: Time.now, unfinished: nil, beside: {}, onto: nil, passphrase: nil, **how)
        @disk = disk
        @folder = folder
        @about = about
        @taken_at = taken_at
        @work = unfinished || "#{folder}.part-#{SecureRandom.hex(4)}"
        @lasting = !unfinished.nil?
        @beside = beside
        @onto = onto
        @files = ImageFiles.new(@work, passphrase)
        @options = CaptureOptions.new(**how)
        @unread = []
      end

      # @yieldparam progress [Course::Progress]
      # @return [Manifest]
      # @raise [Refused] where the folder exists, or a part that was chosen does not
      # @raise [Damaged]
      # @raise [Unreadable] also where too much cannot be read, or the table
      def run(&)
        raise Refused.new("#{@folder} is there already", where: @folder) if ::File.exist?(@folder)
        raise Refused.new('an image that a passphrase opens lies on top of no other', where: 'onto') if @onto && @files.locked?

        survey
        Room.guard(::File.dirname(@folder), -> { left }) do
          open_work
          @absent = account
          finish(copy_clusters(&), &)
        end
      ensure
        @below&.close
        FileUtils.rm_rf(@work) unless @lasting
      end

      private

      def survey
        @below = Below.open(@onto, @folder, @disk) if @onto
        @map = UsedMap.new(@disk)
        @map.only(@options.parts) if @options.parts
        @left_out = LeftOut.new(@map, @disk.size)
        @absent = @left_out.summary
        @temporary = @options.temporary ? [] : Temporary.of(@map)
        @packer = Packer.new(@disk, @options, @temporary.flat_map(&:ranges).sort, @below&.digests)
        @course = Course.new(@map, method(:each_cluster))
      end

      # What is used; and what was used in the image below, where it is not any more: there are zeros now.
      def each_cluster(&)
        return enum_for(:each_cluster) unless block_given?
        return @map.each_cluster(&) unless @below

        @below.beside(@map.each_cluster, &)
      end

      # Of another plan nothing is used that was taken before.
      def open_work
        @checkpoint = Checkpoint.new(@work, plan)
        return @taken_at = @checkpoint.taken_at || @taken_at if @checkpoint.begun?

        FileUtils.rm_rf(@work)
        FileUtils.mkdir_p(@work)
      end

      # @return [String] digest of which bytes of what are taken, and how; nobody asks for it where nothing is to go on
      def plan
        return '' unless @lasting

        digest = ::Digest::Blake3.new
        digest << [@disk.size, @options.level, @temporary.map(&:to_h), @below&.id].inspect
        each_cluster { |index, ranges| digest << [index, *ranges.flatten].pack('Q<*') }
        digest.hexdigest
      end

      # @return [Integer] bytes of clusters that are not in the image yet; packed they take less
      def left = ((@course.total - @stored.to_i) * CLUSTER).clamp(0, nil)

      # What will not be in the image, before anything of it is there.
      # @return [Array<Hash>] as LeftOut#summary
      def account
        ::File.open(in_work(Native::LEFT_OUT), 'w') do |file|
          file.puts 'offset,length,part,map'
          @left_out.each { |range| file.puts [range.offset, range.length, range.part, range.map].join(',') }
        end
        @absent
      end

      # All are closed, whatever comes of closing another: an open one keeps its room after it was removed.
      def copy_clusters(&)
        open_files
        begin
          fill(&)
        ensure
          @digests.close
        end
      ensure
        begin
          @qcow2&.close
        ensure
          @checkpoint&.close
        end
      end

      def open_files
        @unread = @checkpoint.unread
        return again if @checkpoint.begun?

        @checkpoint.open
        @qcow2 = Qcow2Writer.new(@files.create(Native::DISK), @disk.size, backing: @below&.disk)
        @digests = Digests::Writer.new(@files.create(Native::DIGESTS))
      end

      def again
        @digests = Digests::Writer.again(@files.again(Native::DIGESTS), @checkpoint.clusters)
        listed = Digests.new(@files.read(Native::DIGESTS), Native::DIGESTS, count: @checkpoint.clusters)
        taken = @checkpoint.each_placed(listed).map { |placed| placed.tap { |index, _| @course.earlier(index) } }
        @checkpoint.open
        held = taken.reject { |_, size| size == Packer::SAME }
        @qcow2 = Qcow2Writer.again(@files.again(Native::DISK), @disk.size, held, backing: @below&.disk)
      ensure
        listed&.close
      end

      def fill
        @noted = now
        jobs = each_cluster.lazy.drop(@digests.count).each_slice(BATCH)
        Pipeline.each(jobs, @packer.method(:call), apart: forked?, room: BATCH * CLUSTER) do |batch, bytes|
          before = now
          keep(batch, bytes)
          @course.spent(drive: batch.reading, packing: batch.packing, shelf: now - before)
          note if @lasting && now - @noted > NOTED
          yield @course.progress(@qcow2.end, unread_sectors) if block_given?
        end
        @digests.count
      end

      def keep(batch, bytes)
        batch.clusters.each do |index, size, digest|
          @digests.add(index, digest)
          @checkpoint.add(size)
          @course.add(index)
        end
        @qcow2.add_all(batch.clusters.filter_map { |index, size, _| [index, size] unless size == Packer::SAME }, bytes)
        @unread += batch.unread
        @stored = @digests.count
        raise too_much if unread_sectors > @options.most_unread
      end

      def note
        @noted = now
        count = @digests.count
        unread = @unread.dup
        @qcow2.durable do
          @digests.sync
          @checkpoint.note(count, unread:, taken_at: @taken_at)
        end
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
      def forked? = @options.shared.nil? && @disk.fork_safe? && @course.total > Crew::WORTH
      def unread_sectors = @unread.sum { |_, length| length.fdiv(@disk.logical_sector).ceil }

      def too_much
        Unreadable.new('too much of the disk cannot be read',
                       where: @folder, hint: 'it is failing fast: let it rest, or have its contents rescued elsewhere')
      end

      # It is complete where its name is its last: killed before that, it goes on.
      def finish(stored, &)
        manifest = Manifest.new(document(stored))
        ::File.write(in_work(Native::MANIFEST), "#{manifest.to_json}\n")
        ::File.write(in_work(Native::LAYOUT), Table::SfdiskScript.dump(@map.table)) if @map.table
        @beside.each { |name, path| FileUtils.cp(path, in_work(name)) }
        close_files(&)
        @checkpoint.remove
        ::File.rename(@work, @folder)
        manifest
      end

      # What lies on top of another image finds that from a place beside its own only.
      def close_files
        names = [@files.name(Native::DISK), @files.name(Native::DIGESTS), Native::LAYOUT, Native::LEFT_OUT, Native::MANIFEST, *@beside.keys]
        closing = Closing.new(@work, names, @files.keys)
        return closing.sum unless @options.checked && (@below.nil? || ::File.dirname(@work) == ::File.dirname(@folder))

        @checked = closing.check { |done, _| yield @course.progress(@qcow2.end, unread_sectors, checked: done) if block_given? }
      end

      def document(stored)
        Taken.new(map: @map, disk: @disk, about: @about, taken_at: @taken_at, stored:, unread: @unread, temporary: @temporary,
                  below: @below, absent: @absent, locked: @files.locked?).document
      end

      def in_work(name) = ::File.join(@work, name)
    end
  end
end
