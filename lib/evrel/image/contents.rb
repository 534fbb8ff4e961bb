# frozen_string_literal: true

module Evrel
  module Image
    # The volumes of an opened image, to look inside: by the number of their
    # partition, 1 where there is no table.
    class Contents
      # @param image [Native, Foreign]
      def initialize(image)
        @image = image
        @volumes = {}
        @problems = {}
        @unsearched = {}
      end

      # @return [Array<Hash>] part and kind of each part whose files are not read here, after each_entry; swap has none
      def unsearched = @unsearched.map { |part, kind| { part:, kind: } }

      # @return [Array<Hash>] part and problem of each part that could not be looked through to its end, after each_entry
      def problems = @problems.map { |part, problem| { part:, problem: } }

      # @return [Array<Integer>] numbers of the parts
      def numbers = @image.manifest.parts.map { |part| part['number'] }

      # @param number [Integer]
      # @return [Object] a volume, see Volume
      # @raise [NotFound] no such part
      # @raise [Damaged]
      def volume(number)
        @volumes[number] ||= begin
          part = @image.manifest.partition(number) or raise NotFound.new("there is no part #{number}", where: "part #{number}")
          Volume.recognise(Disk::Window.new(@image.disk, part['start_bytes'], part['size_bytes']))
        end
      end

      # @return [Object] a volume with directories
      # @raise [NotFound, Damaged]
      # @raise [Unsupported] where they cannot be read
      def browsable(number)
        volume(number).tap do |found|
          unless found.browsable?
            raise Unsupported.new("the files of a volume of kind #{found.kind} cannot be read",
                                  where: "part #{number}")
          end
        end
      end

      # Yields number and entry of each file and directory of all parts; what
      # cannot be read is passed over, and told in `problems`.
      # @param most [Integer] entries at most
      def each_entry(most: 5_000_000, &block)
        return enum_for(:each_entry, most:) unless block

        numbers.lazy.flat_map { |number| entries_of(number) }.take(most).each(&block)
      end

      private

      def entries_of(number)
        found = volume(number)
        return unread(number, found) unless found.browsable?

        Enumerator.new do |entries|
          found.each_entry { |entry| entries << [number, entry] }
        rescue Error => e
          @problems[number] = e.message # what came before counts
        end.lazy
      rescue Error => e
        @problems[number] = e.message
        []
      end

      def unread(number, volume)
        @unsearched[number] = volume.kind unless volume.kind == 'swap'
        []
      end
    end
  end
end
