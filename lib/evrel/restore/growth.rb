# frozen_string_literal: true

require 'tmpdir'

module Evrel
  module Restore
    # What growing a volume changes of it. The tools of its own system work on a
    # layer above the image, before anything is written: whatever they have
    # against it is known then, and what they have changed is kept, by clusters.
    class Growth
      # @param image [Image::Native, Image::Foreign]
      # @param place [Layout::Place]
      # @param decisions [Decisions]
      def initialize(image, place, decisions)
        @image = image
        @place = place
        @feed = Feed.new(Layout.piece(place), image, [], decisions)
      end

      # @param folder [String] of the scratch room
      # @param path [String] file that gets the clusters that were changed, each at its place in the volume
      # @param list [String] file that gets their digests
      # @raise [Damaged] where a tool refuses the volume
      # @raise [Trouble] where the image cannot be read
      def keep(folder, path, list)
        Dir.mktmpdir('layer-', folder) do |here|
          Disk::Served.over(Sound.new(@feed)) do |below, served|
            layer = Disk::Layer.new(here, below, cluster: Image::CLUSTER, size: @place.size)
            grow(layer, served)
            write(layer, path, list)
          end
        end
      end

      private

      def grow(layer, served)
        layer.as_file(0, @place.size) do |file|
          @place.part.limits.resizer.resize(file, @place.size, sector: nil, time: @image.manifest.taken_at)
        end
      rescue Damaged
        raise unless (error = served.trouble)

        raise Trouble.new(error.message, where: error.where, hint: error.hint, side: :source, kind: Fetch.kind(error),
                                         part: @place.part.number)
      end

      def write(layer, path, list)
        Disk::File.create(path, @place.size)
        writer = Image::Digests::Writer.new(list)
        Disk::File.open(path, writable: true) do |file|
          each_cluster(layer) do |index, data|
            file.write(index * Image::CLUSTER, data) unless data.count("\0") == data.bytesize
            writer.add(index, Image::Digests.of(data))
          end
          file.flush
        end
        writer.close
      end

      # The last one of the volume may be shorter.
      def each_cluster(layer)
        layer.runs.each do |run|
          0.step([run.length, @place.size - run.start].min - 1, Image::CLUSTER) do |from|
            at = run.start + from
            yield at / Image::CLUSTER, layer.read(run, from, [Image::CLUSTER, @place.size - at].min)
          end
        end
      end
    end
  end
end
