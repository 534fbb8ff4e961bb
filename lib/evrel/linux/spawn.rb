# frozen_string_literal: true

require 'fiddle'
require 'io/nonblock'
require 'open3'

module Evrel
  module Linux
    # Starts other programs. Ruby's own way copies the tables of all memory of a
    # process that runs as root, only to throw them away: 20 to 50 ms for each
    # program. posix_spawn (POSIX.1-2017; glibc's spawn.h) shares them until the
    # program begins, which takes one or two.
    #
    # Open3.capture2e, capture2, capture3, popen2e and popen3 are here too, and mean the same.
    module Spawn
      # Larger than both kinds are anywhere (x86-64, glibc 2.36: 80 and 336 bytes).
      STRUCTURE = 1024
      SET_GROUP = 0x02 # POSIX_SPAWN_SETPGROUP
      STREAMS = { in: 0, out: 1, err: 2 }.freeze
      MODES = { 'r' => File::RDONLY, 'w' => File::WRONLY | File::CREAT | File::TRUNC,
                'a' => File::WRONLY | File::CREAT | File::APPEND }.freeze
      RIGHTS = 0o644
      LIBC = Fiddle.dlopen(nil)
      POINTER = Fiddle::TYPE_VOIDP
      INT = Fiddle::TYPE_INT
      FUNCTIONS = {
        posix_spawnp: [POINTER] * 6, posix_spawn_file_actions_init: [POINTER], posix_spawn_file_actions_destroy: [POINTER],
        posix_spawn_file_actions_adddup2: [POINTER, INT, INT], posix_spawn_file_actions_addclose: [POINTER, INT],
        posix_spawn_file_actions_addopen: [POINTER, INT, POINTER, INT, INT], posix_spawn_file_actions_addchdir_np: [POINTER, POINTER],
        posix_spawnattr_init: [POINTER], posix_spawnattr_destroy: [POINTER], posix_spawnattr_setflags: [POINTER, -Fiddle::TYPE_SHORT],
        posix_spawnattr_setpgroup: [POINTER, INT]
      }.to_h { |name, types| [name, Fiddle::Function.new(LIBC[name.to_s], types, INT)] }.freeze

      class << self
        include Open3

        public :capture2e, :capture2, :capture3, :popen2e, :popen3

        # As Process.spawn, of which it knows the environment, redirections, :chdir and :pgroup; no shell is asked.
        # @param command [Array<String, Hash>] an environment first where it has others of its own
        # @return [Integer] process id
        # @raise [SystemCallError] where it cannot be started
        def spawn(*command, **options)
          options = command.pop.merge(options) if command.last.is_a?(Hash)
          environment = command.first.is_a?(Hash) ? command.shift : {}
          command.map! { |word| String(word) }
          with_actions(options.except(:pgroup)) do |actions|
            with_attributes(options[:pgroup]) { |attributes| begun(command, environment, actions, attributes) }
          end
        end

        # As Kernel#system with the same.
        # @return [Boolean] whether it was content
        def run(...) = Process.wait2(spawn(...)).last.success?

        private

        def begun(command, environment, actions, attributes)
          pid = Fiddle::Pointer.malloc(Fiddle::SIZEOF_INT, Fiddle::RUBY_FREE)
          variables = ENV.to_h.merge(environment.transform_values { |value| value&.to_s }).compact.map { |name, value| "#{name}=#{value}" }
          error = FUNCTIONS[:posix_spawnp].call(pid, command.first, actions, attributes, list(command), list(variables))
          raise SystemCallError.new(command.first, error) unless error.zero?

          pid[0, Fiddle::SIZEOF_INT].unpack1('i')
        end

        # Zero ends it. The texts live as long as the list.
        def list(texts)
          raise ArgumentError, 'a NUL in a command' if texts.any? { |text| text.include?("\0") }

          pointers = texts.map { |text| Fiddle::Pointer[text] }
          Fiddle::Pointer[[*pointers.map(&:to_i), 0].pack('J*')].tap { |all| all.instance_variable_set(:@texts, pointers) }
        end

        def with_actions(options)
          actions = "\0" * STRUCTURE
          call(:posix_spawn_file_actions_init, actions)
          options.each { |which, what| redirect(actions, which, what) }
          yield actions
        ensure
          call(:posix_spawn_file_actions_destroy, actions)
        end

        def redirect(actions, which, what)
          return call(:posix_spawn_file_actions_addchdir_np, actions, what) if which == :chdir

          Array(which).each { |stream| stream(actions, STREAMS.fetch(stream), what) }
        end

        def stream(actions, number, what)
          case what
          when %i[child out], %i[child err] then call(:posix_spawn_file_actions_adddup2, actions, STREAMS.fetch(what.last), number)
          when :close then call(:posix_spawn_file_actions_addclose, actions, number)
          when IO
            what.nonblock = false # as Ruby's pipes are, and few programs expect
            call(:posix_spawn_file_actions_adddup2, actions, what.fileno, number)
          else
            path, mode = what
            mode ||= number.zero? ? 'r' : 'w'
            call(:posix_spawn_file_actions_addopen, actions, number, path, MODES.fetch(mode), RIGHTS)
          end
        end

        def with_attributes(group)
          attributes = "\0" * STRUCTURE
          call(:posix_spawnattr_init, attributes)
          if group
            call(:posix_spawnattr_setflags, attributes, SET_GROUP)
            call(:posix_spawnattr_setpgroup, attributes, group == true ? 0 : group)
          end
          yield attributes
        ensure
          call(:posix_spawnattr_destroy, attributes)
        end

        def call(name, *arguments)
          error = FUNCTIONS.fetch(name).call(*arguments)
          raise SystemCallError.new(name.to_s, error) unless error.zero?
        end
      end
    end
  end
end
