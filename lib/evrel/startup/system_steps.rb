# frozen_string_literal: true

module Evrel
  module Startup
    # From the kernel to the system that it runs.
    class SystemSteps
      INITS = %w[/sbin/init /etc/init /bin/init /bin/sh].freeze
      # Bytes that a system needs free to start and write its logs.
      LEAST_FREE = 64 * MIB
      IDENTITY = '/etc/machine-id'

      # @param walk [Walk]
      # @param choice [Choice]
      def initialize(walk, choice)
        @walk = walk
        @places = walk.places
        @choice = choice
      end

      def take
        kernel
        ramdisk
        root
        return unless @root

        init
        HardwareSteps.new(@walk, @volume, @kernel.version, @ramdisk).take
        Mounts.new(@walk, @volume).take
        clean
        room
        identity
      end

      private

      def kernel
        part, path = @choice.kernel
        @kernel = @choice.unified ? Unified.new(@places, @choice).kernel : KernelImage.new(@places.head(part, path, KernelImage::HEAD))
        unless @kernel.fine?
          @walk.broken(
            'kernel', "#{plain(path)} is no kernel for this computer", "It is #{@kernel.kind}", path,
            part: part.number, remedy: 'Restore that part from the image'
          )
        end
        @walk.ok('kernel', 'The kernel is there', "#{plain(path)}, #{@kernel.kind}", path, part: part.number)
      rescue NotFound
        @walk.broken(
          'kernel', "#{plain(path)} is missing", "#{@choice.where} names it", path,
          part: part.number, remedy: 'Restore that part from the image'
        )
      rescue Damaged => e
        @walk.broken('kernel', "#{plain(path)} cannot be read", e.message, e.where, part: part.number)
      end

      # Several count as one: each adds to what came before.
      def ramdisk
        return bare if @choice.initrds.empty? && !inside?

        @ramdisk = @choice.initrds.map { |part, path| one_ramdisk(part, path) }.last
        @walk.ok(
          'ramdisk', 'Its initial ramdisk is whole',
          @ramdisk ? "#{@ramdisk.names.size} files, #{@ramdisk.modules.size} modules" : 'Inside of the kernel’s file',
          @choice.initrds.last&.last || @choice.where
        )
      end

      def inside? = @choice.unified && Unified.new(@places, @choice).ramdisk?

      def bare
        @walk.ok('ramdisk', 'It starts without an initial ramdisk', 'All that the root needs must be built into the kernel', @choice.where)
      end

      def one_ramdisk(part, path)
        unless part
          @walk.broken('ramdisk', "#{plain(path)} is on no part of this disk", "#{@choice.where} names it", path,
                       remedy: 'Restore that part from the image')
        end
        Ramdisk.read(@places.volume(part), path)
      rescue NotFound
        @walk.broken(
          'ramdisk', "#{plain(path)} is missing", "#{@choice.where} names it", path,
          part: part.number, remedy: 'Restore that part from the image'
        )
      rescue Unsupported => e
        @walk.ask('ramdisk', 'The initial ramdisk is not read here', e.message.capitalize, path, part: part.number)
        nil
      rescue Damaged => e
        @walk.broken(
          'ramdisk', "#{plain(path)} is damaged", e.message.capitalize, path,
          part: part.number, remedy: 'Restore that part from the image'
        )
      end

      def root
        @root, @volume = RootSteps.new(@walk, @choice, ramdisk: !@choice.initrds.empty? || inside?).take
      end

      def init
        return unless @volume.browsable?

        wanted = @choice.init
        paths = wanted ? [wanted] : INITS
        return if paths.any? { |path| @volume.exist?(path) }

        @walk.broken(
          'init', 'The root holds no init',
          wanted ? "#{wanted} is not there" : 'None of /sbin/init, /etc/init, /bin/init and /bin/sh is there',
          "partition #{@root.number}",
          part: @root.number, remedy: 'Choose another image'
        )
      end

      def clean
        asleep
        states = @walk.table.partitions.to_h { |part| [part, state(@places.volume(part))] }
        unclean = states.select { |_, state| state == false }.keys
        return clean_as_far_as_known(states) if unclean.empty?

        @walk.ask('clean', 'A file system was not unmounted in order', "#{unclean.map do |part|
          @places.word(part)
        end.join(', ')}: it is checked at the start, which takes longer",
                  'its superblock', part: unclean.first.number)
      end

      # Of what is not read here nothing is known.
      def clean_as_far_as_known(states)
        unknown = states.select { |part, state| state.nil? && @places.volume(part).kind != 'unknown' }.keys
        return @walk.ok('clean', 'All file systems are clean', 'Each was unmounted in order', 'their superblocks') if unknown.empty?

        @walk.ok('clean', 'Clean, as far as is known', "Not known of #{unknown.map do |part|
          "#{@places.word(part)} (#{@places.volume(part).kind})"
        end.join(', ')}", 'their superblocks')
      end

      def state(volume)
        volume.clean?
      rescue BadPlace
        nil
      end

      def asleep
        part = @walk.table.partitions.find { |one| sleeps?(@places.volume(one)) } or return
        @walk.ask('asleep', 'A system sleeps on it',
                  "#{@places.word(part)}: it wakes into what it had in memory, if that still fits the hardware",
                  "partition #{part.number}", part: part.number)
      end

      def sleeps?(volume)
        volume.hibernated?
      rescue BadPlace
        false
      end

      def room
        free = @volume.size - @volume.used_bytes
        if free > LEAST_FREE
          return @walk.ok('room', 'The system has room to work', "#{Units.bytes(free)} are free", "partition #{@root.number}",
                          part: @root.number)
        end

        @walk.ask(
          'room', 'The system has hardly any room', "#{Units.bytes(free)} are free: it may not start all of its services",
          "partition #{@root.number}",
          part: @root.number, remedy: 'Delete old logs once it runs, or give the part more room'
        )
      end

      # systemd's machine-id(5): 32 hexadecimal digits, or nothing where it is to be made anew.
      def identity
        return unless @volume.browsable? && @volume.exist?(IDENTITY)

        id = @volume.file_head(IDENTITY, 64).strip
        if id.empty? || id == 'uninitialized'
          return @walk.ok('identity', 'It gets an identity at its first start', "#{IDENTITY} is empty",
                          IDENTITY)
        end
        unless id.match?(/\A\h{32}\z/)
          return @walk.ask('identity', 'Its identity is no identity', "#{IDENTITY} does not hold 32 hexadecimal digits",
                           IDENTITY)
        end

        @walk.ok('identity', 'It keeps its identity', "#{id[0, 8]}… in #{IDENTITY}", IDENTITY)
      end

      def plain(path) = path.delete_prefix('/')
    end
  end
end
