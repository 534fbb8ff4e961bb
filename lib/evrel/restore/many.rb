# frozen_string_literal: true

require 'securerandom'
require 'tmpdir'

module Evrel
  module Restore
    # One image onto many targets at the same time, from one reading, each with
    # identities of its own. A target that fails leaves the row; the others go on.
    class Many
      # What became of one target: result as of an engine, or error; name that was given to it afterwards,
      # or why it could not be.
      Outcome = Struct.new(:path, :result, :error, :name, :name_error, keyword_init: true) do
        def written? = error.nil? && (!result.read_back || result.verified?)
      end

      # @param image [Image::Native, Image::Foreign, Image::Live]
      # @param paths [Array<String>] of the targets
      # @param wish [Hash] as Layout::Wish takes it
      # @param salt [String] makes new identities differ from those of other runs; each target's differ from the others' anyway
      # @param scratch [String] folder for parts that are resized
      # @param room [Integer] bytes of clusters that may wait for slower targets
      # @param options [Hash] as in WriteOptions
      def initialize(image, paths, wish: { 'way' => 'as_in_image', 'identity' => 'renew' }, salt: SecureRandom.hex(8),
                     scratch: Dir.tmpdir, room: SharedSource::ROOM, **options)
        @image = image
        @paths = paths
        @wish = wish
        @salt = salt
        @scratch = scratch
        @shared = SharedSource.new(image, paths.size, room:)
        @options = options
      end

      # @yieldparam path [String] of a target
      # @yieldparam progress [Progress]
      # @return [Array<Outcome>] in the order of the targets
      def run(&told)
        # Each asks the volumes how small they can become; once is enough.
        source = Layout::Source.of(@image)
        @paths.zip(@shared.readers).map.with_index do |(path, reader), place|
          Thread.new { one(path, reader, source, @wish.merge('salt' => "#{@salt} #{place}"), told) }
        end.map(&:value)
      end

      # @return [Integer] clusters that were read from the image
      def read = @shared.read

      private

      def one(path, reader, source, wish, told)
        Disk.at(path, writable: true, logical_sector: @image.manifest.logical_sector) do |target|
          scratch = Scratch.new(::File.join(@scratch, "evrel-many-#{Process.pid}-#{reader.object_id}"))
          plan = Layout::Planner.new(source, Layout::Target.of(target), wish).plan.valid!
          engine = Engine.new(image: reader, target:, plan:, scratch:, **@options)
          Outcome.new(path:, result: engine.run { |progress| told&.call(path, progress) })
        ensure
          scratch&.remove
        end
      rescue Error => e
        Outcome.new(path:, error: e)
      ensure
        reader.close
      end
    end
  end
end
