# frozen_string_literal: true

module Evrel
  module Startup
    # From the kernel to the system that it runs.
    class SystemSteps
      INITS = %w[/sbin/init /etc/init /bin/init].freeze
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

        mounts = Mounts.new(@walk, @volume)
        inside(mounts) if @volume.browsable?
        mounts.take
        CleanSteps.new(@walk).take
        room
        identity
      end

      private

      def kernel
        part, path = @choice.kernel
        @kernel = @choice.unified ? Unified.new(@places, @choice).kernel : KernelImage.new(@places.head(part, path, KernelImage::HEAD))
        lacks('kernel', "#{plain(path)} is no kernel for this computer", "It is #{@kernel.kind}", part, path) unless @kernel.fine?
        @walk.ok('kernel', 'The kernel is there', "#{plain(path)}, #{@kernel.kind}", path, part: part.number)
      rescue NotFound
        lacks('kernel', "#{plain(path)} is missing", "#{@choice.where} names it", part, path)
      rescue Damaged => e
        @walk.broken('kernel', "#{plain(path)} cannot be read", e.message, e.where, part: part.number)
      end

      # A file of the start, and what can be done about it: the image has it, or another kernel is installed.
      def lacks(id, title, detail, part, path)
        @walk.no(id, title, detail, path, part: part.number, **Step.from_image(part, paths: [path]))
        other = OtherKernels.new(@places, @choice).newest
        @walk.leave unless other && @choice.config&.first

        config, name = @choice.config
        @walk.unknown('other-kernel', "#{other.version} is installed beside it", Units.list(other.files.map(&:last)), name,
                      part: config.number, remedy: 'Let the loader start that one', mend: 'other-kernel',
                      about: { number: config.number, path: name, version: other.version, files: other.files })
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
        lacks('ramdisk', "#{plain(path)} is missing", "#{@choice.where} names it", part, path)
      rescue Unsupported => e
        @walk.ask('ramdisk', 'The initial ramdisk is not read here', e.message.capitalize, path, part: part.number)
        nil
      rescue Damaged => e
        lacks('ramdisk', "#{plain(path)} is damaged", e.message.capitalize, part, path)
      end

      def root
        @root, @volume = RootSteps.new(@walk, @choice, ramdisk: !@choice.initrds.empty? || inside?).take
      end

      # What is looked for in the files of the system itself.
      def inside(mounts)
        @usr = mounts.part_at('/usr')
        usr = @usr && @places.volume(@usr)
        return apart(usr) if usr && !usr.browsable?

        files = SystemFiles.new(@volume, usr)
        init(files)
        ModuleSteps.new(@walk, @choice, @kernel.version, @ramdisk).take(files, mounts)
        HardwareSteps.new(@walk, files, @kernel.version, @ramdisk).take
      end

      def apart(usr)
        @walk.ask('init', 'Its programs lie on a part that is not read here', "/usr is a #{usr.kind} volume: use the trial start", Mounts::PATH)
      end

      def init(files)
        wanted = @choice.init
        path = (wanted ? [wanted] : INITS).find { |one| files.exist?(one) }
        no_init(wanted) unless path
        problem = Program.new(files, path).problem
        return @walk.ok('init', 'Its first program can run', "#{path}, and all that it asks for", path, part: @root.number) unless problem

        @walk.broken('init', 'Its first program cannot run', problem.text, path, part: @root.number, **from_image(problem.paths))
      end

      def no_init(wanted)
        @walk.broken(
          'init', 'The root holds no init',
          wanted ? "#{wanted} is not there" : 'None of /sbin/init, /etc/init and /bin/init is there',
          "partition #{@root.number}",
          part: @root.number, **from_image(wanted ? [wanted] : INITS)
        )
      end

      # The first of them that it has.
      def from_image(paths) = Step.from_image(@root, any_of: paths, usr: @usr&.number)

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
