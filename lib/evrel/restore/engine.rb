# frozen_string_literal: true

module Evrel
  module Restore
    # Carries out the orders of a write. What always holds here: the old table
    # goes first and the new one comes last; a cluster is written only after
    # its digest was right; a journal lets a killed write go on.
    class Engine
      BATCH = 32                 # clusters per job: 2 MiB
      SAFE_POINT = 128 * MIB     # bytes between two entries in the journal
      EDGE = MIB                 # what "the old table" is at each end of the disk

      # @param image [Image::Native, Image::Foreign]
      # @param target [Disk] writable
      # @param plan [Layout::Plan]
      # @param journal [Journal]
      # @param read_back [Boolean]
      # @param accept_unread [Boolean] somebody decided that zeros may stand
      #   where the image could not be read when it was taken
      # @param guard [#call] raises where the target is not the sealed one;
      #   called immediately before the first byte
      def initialize(image:, target:, plan:, journal: Journal::None.new, read_back: true, accept_unread: false, guard: -> {})
        @image = image
        @target = target
        @plan = plan
        @journal = journal
        @guard = guard
        @accept_unread = accept_unread
        @orders = Orders.for(image, plan, read_back:)
        @meter = Meter.new(@orders)
      end

      # @yieldparam progress [Progress] often; a block that returns :stop ends
      #   the write at the next safe point
      # @return [Result]
      # @raise [Mismatch, Damaged] a cluster of the image is not what it was
      # @raise [Unreadable] the target or the image could not be read or written
      # @raise [Refused, DoesNotFit] before anything is written
      # @raise [Stopped]
      def run(&progress)
        @progress = progress
        @resumed = @journal.resumed?
        check_plan
        outcomes = @orders.map { |order| carry_out(order) }
        Result.new(orders: outcomes, written: @meter.written, compared: @read_back&.compared.to_i,
                   mismatches: @read_back&.mismatches || [], read_back: !@read_back.nil?, resumed: @resumed)
      end

      private

      def check_plan
        unless @plan.target_size == @target.size
          raise DoesNotFit.new("the plan is for #{@plan.target_size} bytes, the target has #{@target.size}", where: 'target')
        end
        return if @accept_unread || @image.manifest.unread.empty?

        raise Refused.new("#{Units.count(@image.manifest.unread_sectors)} sectors of the image were not read when it was taken",
                          where: "byte #{@image.manifest.unread.first.first} of the image", hint: 'choose another image, or accept that')
      end

      def carry_out(order)
        before = Process.clock_gettime(Process::CLOCK_MONOTONIC)
        @meter.begin(order)
        tell
        # The check is made and the disk is read back again after an interruption, whatever the journal says.
        skipped = !%i[check read_back].include?(order.kind) && @journal.done?(order.id)
        skipped ? @meter.add(order.bytes.to_i) : send(order.kind, order)
        @meter.end
        tell
        Outcome.new(id: order.id, seconds: Process.clock_gettime(Process::CLOCK_MONOTONIC) - before,
                    bytes: order.bytes, resumed: skipped)
      end

      def check(_order) = @guard.call

      def clear(order)
        # From here on the contents differ from what was sealed, however this ends.
        @journal.point(order.id, begun: true)
        edge = [EDGE, @target.size].min
        zeros = "\0".b * edge
        # The backup first would leave a whole primary; the primary goes first.
        [0, @target.size - edge].each { |offset| @target.write(offset, zeros) }
        @target.flush
        @target.discard(0, @target.size)
        @target.flush
        @journal.point(order.id, done: true)
      end

      def part(order)
        piece = piece_of(order)
        from = resume_at(order, piece)
        since = 0
        each_checked_batch(piece, from) do |clusters|
          write_clusters(piece, clusters)
          since += clusters.size * Image::CLUSTER
          @meter.add(clusters.size * Image::CLUSTER)
          since = safe_point(order, clusters.last.first) if since >= SAFE_POINT
          stop(order, clusters.last.first) if tell == :stop
        end
        @target.flush
        @journal.point(order.id, done: true)
      end

      def table(order)
        @plan.table.write(@target)
        @journal.point(order.id, done: true)
      end

      def read_back(order)
        @read_back = ReadBack.new(@image, @target, @plan)
        @read_back.run do |bytes|
          @meter.add(bytes)
          raise Stopped, 'stopped while reading back; everything is written' if tell == :stop
        end
        @journal.point(order.id, failed: true) if @read_back.mismatches.any?
      end

      def piece_of(order) = @plan.pieces[order.id.delete_prefix('part-').to_i - 1]

      def resume_at(order, piece)
        cluster = @journal.cluster(order.id) or return piece.clusters.begin

        @meter.add(@image.digests.count_between(piece.clusters.begin, cluster + 1) * Image::CLUSTER)
        cluster + 1
      end

      def each_checked_batch(piece, from, &)
        jobs = @image.digests.each_batch(from:, below: piece.clusters.end + 1, batch: BATCH)
        Pipeline.each(jobs, ->(batch) { fetch(batch, piece) }, &)
      end

      # On a thread: read, decompress, check.
      def fetch(batch, piece)
        batch.map do |index, digest|
          data = @image.cluster(index)
          # Without a digest there is nothing to check against; the read-back compares with the image itself.
          next [index, data] if digest.nil? || Image::Digests.of(data) == digest

          raise Mismatch.new("cluster #{index} of the image (#{piece.name}) does not match its digest",
                             where: "cluster #{index}, byte #{index * Image::CLUSTER} of the image",
                             hint: 'nothing of it was written; check the image, or choose another')
        end
      end

      # Neighbours go out in one piece. Zeros need no writing where the disk was just discarded to zeros.
      def write_clusters(piece, clusters)
        clusters = clusters.reject { |_, data| data == Image::Capture::ZEROS } if @target.discards_to_zero?
        clusters.slice_when { |one, two| two.first != one.first + 1 }.each do |run|
          clipped = run.map { |index, data| piece.clip(index, data) }
          @target.write(clipped.first.first, clipped.map(&:last).join)
        end
      end

      def safe_point(order, cluster)
        @target.flush
        @journal.point(order.id, cluster:)
        0
      end

      def stop(order, cluster)
        safe_point(order, cluster)
        raise Stopped.new('stopped; the disk has no partition table now', where: order.title,
                                                                          hint: 'the write can go on from here')
      end

      def tell = @progress&.call(@meter.progress)
    end
  end
end
