# frozen_string_literal: true

require 'json'

module Evrel
  module Restore
    # The append-only journal of one write: a line of JSON for its heading and
    # one for each safe point, each on the disk before the write goes on.
    #
    #   {"image":"…","plan":"…","target":"…"}
    #   {"order":"clear","begun":true}
    #   {"order":"clear","done":true}
    #   {"order":"part-2","cluster":8191}
    #   {"order":"part-2","again":true}         what it says of this order before is void
    #   {"order":"read-back","failed":true}     from here on everything is written again
    class Journal
      # @param path [String] made where it is not there
      # @param heading [Hash] what the write is of: another heading is another write
      # @raise [Refused] where the file belongs to another write
      # @raise [Trouble] where it cannot be written
      def initialize(path, heading)
        @heading = JSON.parse(JSON.generate(heading))
        @points = since_failure(read(path))
        @io = Linux::Appended.open(path)
        append(@heading) unless @resumed
      end

      # Keeps nothing: for writes that are started over when they break.
      class None
        def resumed? = false
        def done?(_order) = false
        def begun?(_order) = false
        def cluster(_order) = nil
        def point(_order, **) = nil
        def close = nil
      end

      # @return [Boolean] whether the write that keeps this file has touched its target
      def self.begun?(path) = ::File.exist?(path) && ::File.foreach(path).drop(1).any? { |line| line.include?('"clear"') }

      def resumed? = @resumed

      # @return [Boolean] whether the order was carried out to its end
      def done?(order) = of(order).any? { |point| point['done'] }

      # @return [Boolean] whether the order was begun, and perhaps done
      def begun?(order) = of(order).any?

      # @return [Integer, nil] the last cluster of the order known to be on the disk
      def cluster(order) = of(order).filter_map { |point| point['cluster'] }.last

      # Records that the order is done, or has come as far as a cluster.
      def point(order, **fields)
        record = { order: }.merge(fields)
        append(record)
        @points << JSON.parse(JSON.generate(record))
      end

      # What could not be kept was told before.
      def close
        @io.close
      rescue SystemCallError
        nil
      end

      private

      def read(path)
        return [] unless ::File.exist?(path)

        # A cut in the middle of a line leaves a line that is no JSON: it never counted.
        lines = ::File.readlines(path).filter_map { |line| parse(line) }
        return [] if lines.empty?
        raise Refused.new("the journal #{path} belongs to another write", where: path) unless lines.first == @heading

        @resumed = true
        lines.drop(1)
      end

      # What counts of an order: all since it was last begun anew.
      def of(order)
        points = @points.select { |point| point['order'] == order }
        again = points.rindex { |point| point['again'] }
        again ? points.drop(again + 1) : points
      end

      # A disk that did not read back as it should is written anew, whatever was done before.
      def since_failure(points)
        failed = points.rindex { |point| point['failed'] }
        failed ? points.drop(failed + 1) : points
      end

      def parse(line)
        JSON.parse(line)
      rescue JSON::ParserError
        nil
      end

      def append(record)
        @io.puts(JSON.generate(record))
        @io.flush
        @io.fsync
      rescue SystemCallError => e
        # What is there of the line goes when the file is opened again.
        raise Trouble.new("the journal of the write cannot be kept: #{e.message.sub(/ @ .*/, '').downcase}",
                          side: :scratch, kind: :full, where: 'the data folder', hint: 'make room there')
      end
    end
  end
end
