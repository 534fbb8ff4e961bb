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
      # @param scratch [Scratch, nil] needed where the plan resizes in the scratch room
      def initialize(image:, target:, plan:, journal: Journal::None.new, read_back: true, accept_unread: false, scratch: nil, guard: -> {})
        @image = image
        @target = target
        @plan = plan
        @journal = journal
        @guard = guard
        @accept_unread = accept_unread
        @scratch = scratch
        @orders = Orders.for(image, plan, read_back:)
        @meter = Meter.new(@orders)
        @feeds = Feeds.new(plan, image, scratch)
        @read_back = ReadBack.new(target) if read_back
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
        take_back_unfinished
        outcomes = @orders.map { |order| carry_out(order) }
        Result.new(orders: outcomes, written: @meter.written, compared: @read_back&.compared.to_i,
                   mismatches: @read_back&.mismatches || [], read_back: !@read_back.nil?, resumed: @resumed)
      ensure
        @scratch&.close
      end

      private

      def check_plan
        @plan.valid!
        raise DoesNotFit.new("the plan is for #{@plan.target_size} bytes, the target has #{@target.size}", where: 'target') unless
          @plan.target_size == @target.size

        check_unread
        raise Refused.new('the plan resizes parts, and there is no scratch room', where: 'scratch room') if
          @scratch.nil? && @plan.pieces.any?(&:prepared?)
        raise Unsupported.new('parts can grow only on a disk that has a path', where: 'target') if
          @plan.pieces.any?(&:grown?) && !@target.respond_to?(:path)

        @scratch&.check_room(@plan) unless @resumed
      end

      def check_unread
        return if @accept_unread || @image.manifest.unread.empty?

        raise Refused.new("#{Units.count(@image.manifest.unread_sectors)} sectors of the image were not read when it was taken",
                          where: "byte #{@image.manifest.unread.first.first} of the image", hint: 'choose another image, or accept that')
      end

      # A volume whose growing was cut off is neither the old nor the new one: it is written again.
      def take_back_unfinished
        @plan.pieces.each_index do |index|
          grow = Orders.id('grow', index)
          next unless @journal.begun?(grow) && !@journal.done?(grow)

          [grow, Orders.id('part', index)].each { |id| @journal.point(id, again: true) }
        end
      end

      def carry_out(order)
        before = Process.clock_gettime(Process::CLOCK_MONOTONIC)
        @meter.begin(order)
        tell
        skipped = done_before?(order)
        skipped ? @meter.add(order.bytes.to_i) : send(order.kind, order)
        @meter.end
        tell
        Outcome.new(id: order.id, seconds: Process.clock_gettime(Process::CLOCK_MONOTONIC) - before,
                    bytes: order.bytes, resumed: skipped)
      end

      # The check is made and the disk is read back again after an interruption, whatever the journal says.
      def done_before?(order)
        return false if %i[check read_back table].include?(order.kind)

        @journal.done?(order.id) && (order.kind != :prepare || @scratch.whole?(order.part))
      end

      def check(_order) = @guard.call

      def prepare(order)
        @scratch.prepare(@image, @plan.place_of(order.part), sector: @target.logical_sector) do |bytes|
          @meter.add(bytes)
          raise Stopped, 'stopped while preparing; nothing was written' if tell == :stop
        end
        # What was written of an older working file does not count any more.
        part = Orders.id('part', index_of(order))
        @journal.point(part, again: true) if @journal.begun?(part)
        @journal.point(order.id, done: true)
      end

      def clear(order)
        # From here on the contents differ from what was sealed, however this ends.
        @journal.point(order.id, begun: true)
        @plan.part_restore? ? clear_part : clear_all
        @target.flush
        @journal.point(order.id, done: true)
      end

      def clear_all
        edge = [EDGE, @target.size].min
        zeros = "\0".b * edge
        # The backup first would leave a whole primary; the primary goes first.
        [0, @target.size - edge].each { |offset| @target.write(offset, zeros) }
        @target.flush
        @target.discard(0, @target.size)
      end

      def clear_part
        @plan.table_first.write(@target)
        @target.flush
        @plan.pieces.each { |piece| @target.discard(piece.target_start, piece.room) }
      end

      def part(order)
        feed = @feeds[index_of(order)]
        from = resume_at(order, feed)
        since = 0
        each_checked_batch(feed, from) do |clusters|
          write_clusters(feed, clusters)
          since += clusters.size * Image::CLUSTER
          @meter.add(clusters.size * Image::CLUSTER)
          since = safe_point(order, clusters.last.first) if since >= SAFE_POINT
          stop(order, clusters.last.first) if tell == :stop
        end
        @target.flush
        @journal.point(order.id, done: true)
      end

      def read_back(order)
        @target.flush
        @target.drop_cache
        @plan.pieces.each_index do |index|
          # What has grown is not what was written any more; it was read back before.
          next if @journal.done?(Orders.id('grow', index))

          @read_back.run(@feeds[index]) do |bytes|
            @meter.add(bytes)
            raise Stopped, 'stopped while reading back; everything is written but the table' if tell == :stop
          end
        end
        check_mismatches(order)
      end

      # In place: the tool moves only what describes the volume, and checks it before and after.
      def grow(order)
        piece = @plan.pieces[index_of(order)]
        @journal.point(order.id, begun: true)
        @target.flush
        tool = Resize::Tool.new(@image.manifest.taken_at)
        Resize::Ext.new(@target.path, tool, offset: piece.target_start).to(piece.room)
        @target.flush
        @journal.point(order.id, done: true)
      end

      def table(order)
        # A disk that does not hold what it should gets no table: it must not look whole.
        return if mismatches?

        @plan.table.write(@target)
        @target.flush
        @read_back&.table(@plan.table)
        check_mismatches(order)
        @journal.point(order.id, done: true)
      end

      def mismatches? = !@read_back.nil? && @read_back.mismatches.any?
      def check_mismatches(order) = mismatches? && @journal.point(order.id, failed: true)

      def index_of(order) = order.id[/\d+\z/].to_i - 1

      # Where nothing is known to be written, nothing old may stay between the clusters.
      def resume_at(order, feed)
        cluster = @journal.cluster(order.id)
        if cluster
          @meter.add(feed.count(below: cluster + 1) * Image::CLUSTER)
          return cluster + 1
        end
        @target.discard(feed.piece.target_start, feed.piece.room) if @resumed
        feed.piece.clusters.begin
      end

      def each_checked_batch(feed, from, &)
        Pipeline.each(feed.each_batch(from:, batch: BATCH), ->(batch) { Fetch.checked(feed, batch) }, &)
      end

      # Neighbours go out in one piece. Zeros need no writing where the disk was just discarded to zeros.
      def write_clusters(feed, clusters)
        clusters = clusters.reject { |index, data| data == Image::Capture::ZEROS && feed.plain?(index) } if @target.discards_to_zero?
        clusters.slice_when { |one, two| two.first != one.first + 1 }.each do |run|
          clipped = run.map { |index, data| feed.clip(index, data) }
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
