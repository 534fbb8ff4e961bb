# frozen_string_literal: true

module Evrel
  module Startup
    # The chain of a UEFI computer, as its firmware and loader would walk it:
    # firmware, GPT, start-up part, loader, loader entry, kernel, root, and
    # what the system mounts. Stops at the first step that fails.
    class UefiChain
      # UEFI specification 2.10, section 3.5.1.1
      DEFAULT_LOADER = '/EFI/BOOT/BOOTX64.EFI'
      ESP = 'c12a7328-f81f-11d2-ba4b-00a0c93ec93b'
      AMD64 = 0x8664 # PE/COFF: IMAGE_FILE_HEADER.Machine

      def initialize(disk, firmware, others)
        @disk = disk
        @firmware = firmware
        @others = others.compact.map(&:downcase)
        @steps = []
      end

      # @return [Array<Fact>]
      def steps
        catch(:broken) do
          firmware
          table
          startup_part
          loader
          entry
          kernel
          root
          mounts
        end
        @steps
      end

      private

      def ok(id, title, detail, evidence = nil) = add(id, :ok, title, detail, evidence)
      def ask(id, title, detail, evidence = nil) = add(id, :ask, title, detail, evidence)

      def broken(id, title, detail, evidence = nil)
        add(id, :no, title, detail, evidence)
        throw :broken
      end

      def add(id, state, title, detail, evidence)
        @steps << Fact.new(id:, state:, title:, detail:, evidence:)
      end

      def firmware
        secure = @firmware['secure_boot'] ? 'secure boot is on' : 'secure boot is off'
        ok('firmware', 'Firmware starts by UEFI', "It looks for a start-up part on a GPT disk; #{secure}")
      end

      def table
        @table = Table.read(@disk)
        broken('table', 'No partition table', 'The firmware finds nothing to start from', 'sectors 1 and last') unless @table
        return ok('table', 'GPT is whole', 'Both copies agree', 'sectors 1 and last') if @table.findings.empty?

        ask('table', 'GPT is damaged, one copy is good', @table.findings.join('; '), "read from the #{@table.source} copy")
      rescue Damaged => e
        broken('table', 'GPT cannot be used', e.message, e.where)
      end

      def startup_part
        part = @table.partitions.find { |entry| entry.type == ESP }
        broken('startup-part', 'No start-up part', 'No partition has the type “EFI system”', 'GPT entries') unless part

        @esp = Volume.recognise(part.window(@disk))
        unless @esp.is_a?(Volume::Fat)
          broken('startup-part', 'Start-up part cannot be read', "It holds #{@esp.kind} where the firmware reads FAT only",
                 "partition #{part.number}")
        end
        add('startup-part', @esp.clean? ? :ok : :ask, 'Finds the start-up part',
            "#{@esp.kind.upcase} volume#{" “#{@esp.label}”" if @esp.label}, #{@esp.clean? ? 'clean' : 'not unmounted in order'}",
            "partition #{part.number}")
      rescue Damaged => e
        broken('startup-part', 'Start-up part is damaged', e.message, e.where)
      end

      def loader
        @loader = @firmware['loader'] || DEFAULT_LOADER
        @loader = @loader.tr('\\', '/')
        head = head_of(@esp, @loader)
        broken('loader', "#{@loader} is missing", 'The firmware has nothing to run', 'start-up part') unless head
        broken('loader', "#{@loader} is no program", 'It is not built for this processor', 'its PE header') unless amd64?(head)

        state = @firmware['secure_boot'] && !signed?(head) ? :no : :ok
        add('loader', state, "Runs #{@loader.delete_prefix('/')}",
            "A loader for this processor, #{size_of(@loader)}, #{signed?(head) ? 'signed' : 'unsigned'}", 'its PE header')
        throw :broken if state == :no
      end

      # PE/COFF 8.3: "MZ", the header's offset at 0x3C, "PE\0\0", Machine.
      def amd64?(head)
        at = pe_offset(head) or return false
        head.byteslice(at, 4) == "PE\0\0".b && head.byteslice(at + 4, 2).unpack1('v') == AMD64
      end

      # Data directory 4 (certificates) of a PE32+ optional header, at 0x90 of it.
      def signed?(head)
        at = pe_offset(head)
        size = head.byteslice(at + 24 + 0x90 + 4, 4)&.unpack1('V')
        !size.nil? && size.positive?
      end

      def pe_offset(head)
        at = head.start_with?('MZ') && head.byteslice(0x3C, 4)&.unpack1('V')
        at if at && at + 0x100 < head.bytesize
      end

      def entry
        unless @esp.exist?('/loader/entries')
          ask('entry', 'Its configuration is of another kind', 'There is no loader/entries to read: use the trial start',
              'start-up part')
          throw :broken
        end
        @entry = LoaderEntries.new(@esp).chosen
        broken('entry', 'The loader has no entry', 'loader/entries holds no .conf file', 'start-up part') unless @entry

        ok('entry', "The loader picks “#{@entry.title}”", "#{@entry.path.delete_prefix('/')} names #{@entry.linux}",
           @entry.path)
      rescue Damaged => e
        broken('entry', 'The loader’s files are damaged', e.message, e.where)
      end

      def kernel
        broken('kernel', 'The entry names no kernel', 'It has no line “linux” or “efi”', @entry.path) unless @entry.linux

        [@entry.linux, *@entry.initrds].each do |path|
          next if @esp.exist?(path)

          broken('kernel', "#{path} is missing", "#{@entry.path.delete_prefix('/')} names it", 'start-up part')
        end
        ok('kernel', 'The kernel is there', "#{@entry.linux.delete_prefix('/')}, #{size_of(@entry.linux)}" \
                                            "#{', and its initramfs' if @entry.initrds.any?}", 'start-up part')
      end

      def root
        spec = @entry.root
        ask('root', 'The entry names no root', 'The initramfs decides', @entry.path) && throw(:broken) unless spec
        part = find_part(spec)
        broken('root', 'The kernel does not find its root', "#{spec} is on no part of this disk", @entry.path) unless part

        @root = Volume.recognise(part.window(@disk))
        twin = @others.include?(spec.split('=', 2).last.downcase)
        alone = twin ? 'but another attached disk has it too: take that one out' : 'and no other attached disk has it'
        add('root', twin ? :ask : :ok, 'The kernel finds its root', "#{short(spec)} is #{word_of(part)}, #{alone}",
            "#{@entry.path}, partition #{part.number}")
        check_root
      rescue Damaged => e
        broken('root', 'The root is damaged', e.message, e.where)
      end

      def word_of(part) = part.name.empty? ? Table::Types.role_name(part.role) : part.name

      def check_root
        return unless @root.browsable?
        return if %w[/sbin/init /etc/init /bin/init /bin/sh].any? { |path| @root.exist?(path) }

        broken('init', 'The root holds no init', 'None of /sbin/init, /etc/init, /bin/init and /bin/sh is there', 'root')
      end

      def mounts
        return unless @root&.browsable? && @root.exist?('/etc/fstab')

        entries = fstab
        missing = entries.reject { |spec| find_part(spec) }
        if missing.any?
          return ask('mounts', 'System mounts what is not there', "#{missing.join(', ')} in /etc/fstab is on no part of this disk",
                     '/etc/fstab')
        end

        ok('mounts', 'System mounts what it lists', "#{entries.size} of #{entries.size} entries in /etc/fstab are on this disk",
           '/etc/fstab')
      rescue Damaged => e
        ask('mounts', '/etc/fstab cannot be read', e.message, e.where)
      end

      # Entries that name a block device; proc, tmpfs and the like need none.
      def fstab
        @root.file_head('/etc/fstab').force_encoding('UTF-8').scrub.each_line.filter_map do |line|
          spec = line.strip.split(/\s+/).first
          spec if spec&.match?(%r{\A(?:UUID|PARTUUID|LABEL|PARTLABEL)=|\A/dev/})
        end
      end

      # @return [Table::Partition, nil]
      def find_part(spec)
        key, value = spec.delete('"').split('=', 2)
        case key
        when 'PARTUUID' then @table.partitions.find { |part| part.guid.casecmp?(value) }
        when 'PARTLABEL' then @table.partitions.find { |part| part.name == value }
        when 'UUID' then by_volume { |volume| volume.uuid.to_s.casecmp?(value) }
        when 'LABEL' then by_volume { |volume| volume.label == value }
        # A kernel name says the place, not the disk: its number is all there is.
        when %r{\A/dev/\D+[a-z]?(?:\d+n\d+p)?(\d+)\z} then by_number(Regexp.last_match(1))
        end
      end

      def by_number(text) = @table.partitions.find { |part| part.number == text.to_i }

      def by_volume
        @table.partitions.find do |part|
          volume, = Volume.recognise_or_unknown(part.window(@disk))
          yield volume
        end
      end

      def head_of(volume, path)
        volume.file_head(path, 4096)
      rescue NotFound
        nil
      end

      def size_of(path) = Units.bytes(@esp.entry(path).size)
      def short(spec) = spec.sub(/(=.{4}).{8,}/, '\1…')
    end
  end
end
