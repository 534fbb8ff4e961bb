# frozen_string_literal: true

require 'tmpdir'

module Evrel
  module Startup
    module Mend
      # A partition of a disk that a tool may change without the disk's being
      # touched: what it wrote is given back as bytes and their places.
      class Overlay
        CLUSTER = 4096
        # More than that is not made ready in memory.
        LARGEST = 256 * MIB

        # @param disk [Disk]
        def initialize(disk)
          @disk = disk
        end

        # @param part [Table::Partition]
        # @yieldparam file [String] path of a file of the partition's bytes
        # @return [Array<(Integer, String)>] byte offset on the disk and bytes of each place that was written to
        # @raise [Unsupported] where this machine cannot do it
        # @raise [DoesNotFit] where too much was written
        def edit(part, &)
          Dir.mktmpdir('evrel-overlay') do |folder|
            @disk.as_file do |path|
              layer = Disk::Layer.new(folder, ::File.expand_path(path), cluster: CLUSTER)
              layer.as_file(part.start, part.size, &)
              written(layer)
            end
          end
        end

        private

        def written(layer)
          runs = layer.runs
          total = runs.sum(&:length)
          raise DoesNotFit.new("the change touches #{Units.bytes(total)}, which is too much", where: 'overlay') if total > LARGEST

          runs.map { |run| [run.start, layer.read(run)] }
        end
      end
    end
  end
end
