# frozen_string_literal: true

require 'fileutils'

module Evrel
  module Restore
    # The room in which volumes are brought to another size before anything is
    # written: one sparse working file for each, with its digests.
    class Scratch
      # Bytes: with less than that left, it is for lack of room that a tool gave up.
      FULL = 4 * MIB

      # @param folder [String] made where it is not there
      # @param most [Integer, nil] bytes that it may take with those beside it
      def initialize(folder, most: nil)
        @folder = folder
        @most = most
        @open = {}
      end

      # @param plan [Layout::Plan]
      # @raise [DoesNotFit] where the working files would not have room
      def check_room(plan)
        needed = plan.scratch_bytes(plan.pieces.select(&:prepared?).map(&:number).reject { |number| whole?(number) })
        return if needed.zero?

        FileUtils.mkdir_p(@folder)
        Room.bound(::File.dirname(@folder), needed, @most, 'the scratch room') if @most
        missing = needed - free
        return unless missing.positive?

        raise DoesNotFit.new("the scratch room lacks #{Units.bytes(missing)}: resizing needs #{Units.bytes(needed)}",
                             where: 'scratch room', hint: 'make room there; nothing was written')
      end

      # Makes the working file of a part.
      # @param image [Image::Native, Image::Foreign]
      # @param place [Layout::Place]
      # @param sector [Integer] bytes of the target's
      # @param decisions [Decisions]
      # @param back [GoingBack, nil] to what the source did not give
      # @yieldparam fetched [Fetch::Fetched]
      # @yieldreturn :stop ends it
      # @raise [Mismatch] a cluster of the image is not what it was
      # @raise [Damaged] a tool refuses the volume
      # @raise [Trouble] there is no room left; what was made of this part is removed
      def prepare(image, place, sector:, decisions: Decisions.new, back: nil, &block)
        number = place.part.number
        FileUtils.mkdir_p(@folder)
        forget(number)
        create(place, sector, image.manifest.taken_at) do |file|
          copy(Feed.new(whole(place.part), image, [], decisions), file, back, &block)
        end
      rescue Unreadable, Damaged, SystemCallError => e
        raise e if free > FULL

        raise full(place)
      end

      # Finds out what growing changes of a part. Where it cannot be grown, that is noted, and nothing is changed of it.
      # @param image [Image::Native, Image::Foreign]
      # @param place [Layout::Place]
      # @param decisions [Decisions]
      # @raise [Trouble] where the image cannot be read, or there is no room left
      def grow(image, place, decisions: Decisions.new)
        number = place.part.number
        FileUtils.mkdir_p(@folder)
        forget(number)
        Growth.new(image, place, decisions).keep(@folder, path(number), "#{path(number)}.b3")
      rescue Damaged, Unreadable, Unsupported, SystemCallError => e
        raise full(place) if free <= FULL

        refuse(place, e)
      end

      # @return [String, nil] why a part could not be grown
      def refused(number) = (::File.read(reason(number)) if ::File.exist?(reason(number)))

      # @return [Boolean] whether the working file of a part is there
      def whole?(number) = ::File.exist?("#{path(number)}.b3")

      # @return [WorkingFile]
      # @raise [Unreadable] where it is not there
      def file(number) = @open[number] ||= WorkingFile.new(path(number), "#{path(number)}.b3")

      # @param image [Image::Live, Image::Native, Image::Foreign]
      # @return [Leftover, nil] only a drive gives another time what it did not give at once
      def leftover(image)
        Leftover.new(image, ::File.join(@folder, 'source')) if image.format == Image::Live::FORMAT && image.goes_back?
      end

      # Closes what is open; the files stay for a write that goes on.
      def close
        @open.each_value(&:close)
        @open.clear
      end

      # Removes all working files.
      def remove
        close
        Disk::Layer.clear(@folder)
      end

      private

      # @return [Integer] bytes
      def free = Linux::FreeSpace.of(@folder).to_a.first.to_i

      def create(place, sector, time, &)
        path = path(place.part.number)
        Disk::File.create(path, place.part.size)
        Disk::File.open(path, writable: true, &)
        place.part.limits.resizer.resize(path, place.size, sector:, time:)
        WorkingFile.list(path, "#{path}.b3")
        Disk::File.open(path, writable: true, &:flush)
      end

      def path(number) = ::File.join(@folder, "part-#{number}.raw")
      def reason(number) = "#{path(number)}.refused"

      def forget(number)
        @open.delete(number)&.close
        FileUtils.rm_f([path(number), "#{path(number)}.b3", reason(number)])
      end

      # @return [Trouble]
      def full(place)
        forget(place.part.number)
        Trouble.new("the scratch room is full: #{place.part.word} could not be resized there",
                    side: :scratch, kind: :full, part: place.part.number, where: 'scratch room', hint: 'make room there')
      end

      # An empty working file: nothing of it changes.
      def refuse(place, error)
        number = place.part.number
        forget(number)
        Disk::File.create(path(number), place.size)
        Image::Digests::Writer.new("#{path(number)}.b3").close
        ::File.write(reason(number), error.message)
      end

      # All of a part, as it is.
      def whole(part) = Layout::Piece.new(number: part.number, name: part.word, image_start: part.start, target_start: 0, size: part.size)

      def copy(feed, file, back, &)
        order = Order.new(id: 'copy', title: feed.piece.name)
        PartWriter.new(order, feed, target: file, journal: Journal::None.new, fetch: Fetch.new(feed, file, leaves: !back.nil?),
                                    apart: feed.fork_safe?, back:).run(&)
        back&.over(feed, Fetch.new(feed, file, direct: true))
      end
    end
  end
end
