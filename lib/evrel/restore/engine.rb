# frozen_string_literal: true

module Evrel
  module Restore
    # Carries out the orders of a write. What always holds here: the old table
    # goes first and the new one comes last; a cluster is written only after
    # its digest was right; a journal lets a killed write go on.
    class Engine
      EDGE = MIB # what "the old table" is at each end of the disk

      # @param image [Image::Native, Image::Foreign]
      # @param target [Disk] writable
      # @param plan [Layout::Plan]
      # @param journal [Journal]
      # @param guard [#call] raises where the target is not the sealed one;
      #   called first of all, and immediately before the first byte: hours may lie between
      # @param scratch [Scratch, nil] needed where the plan resizes in the scratch room; of a drive as the source, what it does not
      #   give at once is left for later there, and else stops the write
      # @param decisions [Decisions] what was decided about clusters that are not what they were
      # @param waits [Array<Float>] as in Retry
      # @param options [Hash] as in WriteOptions
      def initialize(image:, target:, plan:, journal: Journal::None.new, guard: -> {}, scratch: nil, decisions: Decisions.new,
                     waits: Retry::WAITS, **options)
        @image = image
        @target = Steady.new(target, @retry = Retry.new(waits))
        @plan = plan
        @journal = journal
        @guard = guard
        @scratch = scratch
        @decisions = decisions
        @options = WriteOptions.new(**options)
        @orders = Orders.for(image, plan, options: @options)
        @meter = Meter.new(@orders)
        @feeds = Feeds.new(plan, image, scratch, decisions)
        @read_back = ReadBack.new(@target, again: (@image.disk if @options.read_twice)) if @options.read_back
        @unused = Unused.new(@target, @options.unused)
        @marks = Marks.new(plan, @target)
        @rewritten = 0
        @back = scratch&.leftover(image)&.then { |leftover| GoingBack.new(leftover, decisions, @meter) { tell } }
        @last_part = @orders.reverse.find { |order| order.kind == :part }
      end

      # @param shown [Array<Order>, nil] the orders that somebody has seen: no others are carried out
      # @yieldparam progress [Progress] often; a block that returns :stop ends
      #   the write at the next safe point
      # @return [Result]
      # @raise [Trouble] something did not go as it should, and somebody has to decide
      # @raise [Refused, DoesNotFit, Unsupported] before anything is written
      # @raise [Stopped]
      def run(shown: nil, &progress)
        as_shown!(shown)
        @progress = progress
        @resumed = @journal.resumed?
        Ready.new(@image, @target, @plan, @scratch, accept_unread: @options.accept_unread).check
        result(@orders.map { |order| carry_out(order) })
      ensure
        @scratch&.close
        @back&.close
      end

      private

      def as_shown!(shown)
        return if shown.nil? || shown == @orders

        raise Refused.new('the orders are not those that were shown any more', where: 'orders', hint: 'seal the layout again')
      end

      def result(outcomes)
        Result.new(orders: outcomes, **@meter.totals, compared: @read_back&.compared.to_i, mismatches: @read_back&.mismatches || [],
                   digest: @read_back&.digest, rewritten: @rewritten, without: @decisions.without, read_back: !@read_back.nil?,
                   resumed: @resumed, not_grown:)
      end

      def carry_out(order)
        before = now
        @meter.begin(order)
        stop_before(order) if tell == :stop
        skipped = done_before?(order)
        skipped ? pass_over(order) : at_source(order) { send(order.kind, order) }
        at_source(order) { go_back } if @back && order.equal?(@last_part)
        @meter.end
        tell
        Outcome.new(id: order.id, kind: order.kind, seconds: now - before, bytes: order.bytes, resumed: skipped, **@meter.of_order)
      end

      def stop_before(order)
        begun = @journal.begun?('clear') || @orders.index(order) > @orders.index { |one| one.kind == :clear }
        raise Stopped.new(begun ? 'stopped; the disk has no partition table now' : 'stopped; nothing was written',
                          where: order.title, hint: 'the write can go on from here')
      end

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      # The check is made and the disk is read back again after an interruption, whatever the journal says.
      def done_before?(order)
        return true if order.part && @decisions.without.include?(order.part)
        return false if %i[check read_back table].include?(order.kind)

        @journal.done?(order.id) && (order.kind != :prepare || @scratch.whole?(order.part))
      end

      # What the target refuses comes as trouble already; what else cannot be read is the image, its list of digests too.
      def at_source(order)
        yield
      rescue Unreadable, Damaged, Mismatch => e
        raise unless %i[part read_back].include?(order.kind)

        raise Trouble.new(e.message, where: e.where, hint: e.hint, side: :source, kind: Fetch.kind(e), part: order.part)
      end

      # @return [Hash] number of a part that keeps its size → why
      def not_grown
        @plan.pieces.select(&:grown?).reject { |piece| @decisions.without.include?(piece.number) }
             .to_h { |piece| [piece.number, @scratch.refused(piece.number)] }.compact
      end

      # A write that was killed at its very end may have left a table already.
      def pass_over(order)
        @meter.earlier(order.bytes.to_i)
        return unless order.kind == :clear

        @marks.write
        @target.flush
      end

      def check(_order)
        @guard.call
        SameTarget.new(@target, @marks, @journal).check(@orders, @feeds)
      end

      def prepare(order)
        @plan.pieces[order.piece].grown? ? @scratch.grow(@image, @plan.place_of(order.part), decisions: @decisions) : resize(order)
        # What was written of an older working file does not count any more.
        part = Orders.id('part', order.piece)
        @journal.point(part, again: true) if @journal.begun?(part)
        @journal.point(order.id, done: true)
      end

      def resize(order)
        place = @plan.place_of(order.part)
        @scratch.prepare(@image, place, sector: @target.logical_sector, decisions: @decisions, back: @back) do |fetched, waited|
          @meter.fetched(fetched, waited)
          raise Stopped, 'stopped while preparing; nothing was written' if tell == :stop
        end
      end

      def clear(order)
        @guard.call
        # From here on the contents differ from what was sealed, however this ends.
        @journal.point(order.id, begun: true)
        @plan.part_restore? ? @marks.write : clear_table
        @target.flush
        @meter.emptied(@unused.empty(@unused.ranges(@plan, @feeds, @decisions.without)) { tell })
        @marks.write
        @target.flush
        @journal.point(order.id, done: true)
      end

      # The backup first would leave a whole primary; the primary goes first.
      def clear_table
        edge = [EDGE, @target.size].min
        zeros = "\0".b * edge
        [0, @target.size - edge].each { |offset| @target.write(offset, zeros) }
      end

      def part(order)
        feed = @feeds[order.piece]
        known = @journal.cluster(order.id)
        known ? @meter.earlier(feed.count(below: known + 1) * Image::CLUSTER) : empty_again(feed.piece)
        writer(order, feed).run(known && (known + 1)) do |fetched, waited|
          @meter.fetched(fetched, waited, target: @target.retries)
          tell
        end
      end

      # When all that is easy is written.
      def go_back
        @plan.pieces.each_with_index do |piece, index|
          next if piece.prepared? || @decisions.without.include?(piece.number)

          @back.over(@feeds[index], fetch_from(@feeds[index], false, direct: true))
        end
        @target.flush
      end

      def writer(order, feed)
        apart = feed.fork_safe? && (!@options.skip_identical || @target.fork_safe?)
        fetch = fetch_from(feed, @options.skip_identical, direct: (apart || feed.shared?) && @target.fork_safe?, leaves: !@back.nil?)
        PartWriter.new(order, feed, target: @target, journal: @journal, fetch:, apart:, back: @back)
      end

      def fetch_from(feed, skip_identical, direct:, leaves: false)
        Fetch.new(feed, @target, skip_identical:, empty: @unused.blank?(feed.piece), direct:, leaves:, retrying: @retry)
      end

      # Where nothing is known to be written, nothing old may stay between the clusters.
      def empty_again(piece)
        @unused.empty([[piece.target_start, piece.room]]) if @resumed && !@options.skip_identical
      end

      def read_back(order)
        read_all
        rewrite(order) if mismatches? && @read_back.mendable?
        @journal.point(order.id, failed: true) if mismatches?
      end

      def read_all
        @read_back.from_the_media
        @read_back.marks(@marks)
        @plan.pieces.each_with_index do |piece, index|
          next if @decisions.without.include?(piece.number)

          @read_back.run(@feeds[index]) do |bytes|
            @meter.add(bytes)
            raise Stopped, 'stopped while reading back; everything is written but the table' if tell == :stop
          end
        end
      end

      # Once. A drive that turned some bits may have turned more: all is read again.
      def rewrite(order)
        Rewrite.new(@plan, @feeds, @target) { |feed| fetch_from(feed, false, direct: true) }.run(@read_back.mismatches)
        @rewritten = @read_back.mismatches.size
        @read_back.again
        @meter.begin(order)
        read_all
      end

      def table(order)
        # A disk that does not hold what it should gets no table: it must not look whole.
        return if mismatches?

        @plan.table.write(@target)
        @target.flush
        @read_back&.table(@plan.table)
        @journal.point(order.id, **(mismatches? ? { failed: true } : { done: true }))
      end

      def mismatches? = !@read_back.nil? && @read_back.mismatches.any?
      def tell = @progress&.call(@meter.progress)
    end
  end
end
