# frozen_string_literal: true

module Evrel
  module Image
    # Makes an image that lies on top of others whole: its disk.qcow2 holds
    # everything then. At every moment one of both is there: the new file takes
    # the place of the old one in one step, and an image whose file builds on
    # nothing needs nothing below, whatever its manifest still says.
    class Merge
      BATCH = Capture::BATCH

      # @param folder [String] of the image
      def initialize(folder)
        @folder = folder
      end

      # @yieldparam done [Integer] clusters
      # @yieldparam total [Integer]
      # @return [Manifest] as it is afterwards
      # @raise [Refused] where it lies on top of nothing
      # @raise [Mismatch] where something does not match its digest: nothing is changed
      def run(&)
        @image = Image.open(@folder)
        raise Refused.new('it lies on top of nothing: it is whole', where: @folder) unless @image.is_a?(Native) && @image.disk.backing

        @work = within("#{Native::DISK}.whole")
        FileUtils.rm_f(@work)
        Room.guard(@folder) { write(&) }
        take_over
      ensure
        @image&.close
        FileUtils.rm_f(@work) if @work
      end

      private

      def within(name) = ::File.join(@folder, name)

      def write
        writer = Qcow2Writer.new(@work, @image.disk.size)
        done = 0
        jobs = @image.digests.each_batch(batch: BATCH)
        apart = @image.fork_safe? && @image.digests.count > Crew::WORTH
        Pipeline.each(jobs, method(:pack), apart:, room: BATCH * CLUSTER) do |sizes, bytes|
          writer.add_all(sizes, bytes)
          yield done += sizes.size, @image.digests.count if block_given?
        end
      ensure
        writer&.close
      end

      # @return [Array<(Integer, Integer)>] number of each cluster, and the bytes that it takes
      def pack(records, out)
        records.map do |index, digest|
          data = @image.cluster(index)
          raise Mismatch.new("cluster #{index} does not match its digest", where: "cluster #{index}") unless Digests.of(data) == digest

          packed = data == Capture::ZEROS ? '' : Packer.packed(data, Codec::Zstd::LEVEL)
          out << packed
          [index, packed.bytesize]
        end
      end

      def take_over
        ::File.rename(@work, within(Native::DISK))
        manifest = Manifest.new(@image.manifest.document.except('onto'))
        put(Native::MANIFEST, "#{manifest.to_json}\n")
        put(Native::SUMS, Sums.written(@folder, @image.members.map { |member| ::File.basename(member) } - [Native::SUMS]))
        manifest
      end

      def put(name, text)
        ::File.write("#{within(name)}.new", text)
        ::File.open("#{within(name)}.new", &:fsync)
        ::File.rename("#{within(name)}.new", within(name))
      end
    end
  end
end
