# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # Bytes of a disk that become others: byte offset, what stands there, and
      # what is to stand there, of the same length.
      Change = Struct.new(:offset, :before, :after) do
        # @param disk [Disk]
        # @param pieces [Array<(Integer, String)>] byte offset, and what is to stand there
        # @return [Array<Change>] only of what differs, sector by sector, neighbours joined
        def self.of(disk, pieces)
          pieces.flat_map { |offset, bytes| differing(offset, disk.read(offset, bytes.bytesize), bytes) }
        end

        # @return [Array<Change>]
        def self.differing(offset, before, after)
          wrong = (0...after.bytesize).step(512).reject { |at| before.byteslice(at, 512) == after.byteslice(at, 512) }
          wrong.slice_when { |one, other| other != one + 512 }.map do |run|
            length = [run.last + 512, after.bytesize].min - run.first
            new(offset + run.first, before.byteslice(run.first, length), after.byteslice(run.first, length))
          end
        end
      end
    end
  end
end
