# frozen_string_literal: true

module Evrel
  class CLI
    # The commands that take images: capture, merge and map.
    module Taking
      private

      def run_capture(arguments)
        command = CaptureCommand.new(arguments, @passphrase)
        source, folder = operands(arguments, 2)
        taken = Disk.at(source) { |disk| command.run(disk, folder) { |one| told(one) } }
        over = !taken.is_a?(Salvage::Run::Result)
        print(over ? taken.document : { complete: false, because: taken.because, unread_bytes: taken.bad.sum(&:last) })
        over ? FINE : FINDING
      end

      def told(progress)
        return show('captured', progress.done, progress.total) if progress.is_a?(Image::Course::Progress)

        show("salvaged, #{progress.pass}", progress.read, progress.wanted)
      end

      # An image that lies on top of others becomes whole.
      def run_merge(arguments)
        path, = operands(arguments, 1)
        print(Image::Merge.new(path).run { |done, total| show('merged', done * Image::CLUSTER, total * Image::CLUSTER) }.document)
        FINE
      end

      # What became of a salvage so far.
      def run_map(arguments)
        path, = operands(arguments, 1)
        file = [path, ::File.join(path, Salvage::Store::MAP), ::File.join(path, Image::Native::SALVAGE)].find { |one| ::File.file?(one) }
        raise NotFound.new("there is no map in #{path}", where: path) unless file

        map = Salvage::Map.parse(::File.read(file))
        print({ path: file, size_bytes: map.size, sector_bytes: map.sector,
                **Salvage::Map::STATES.to_h { |state| [:"#{state}_bytes", map.total(state)] },
                unread: map.in_state([[0, map.size]], :skipped, :bad) })
        FINE
      end
    end
  end
end
