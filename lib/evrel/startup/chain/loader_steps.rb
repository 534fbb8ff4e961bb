# frozen_string_literal: true

module Evrel
  module Startup
    # The loader that a UEFI firmware runs from the start-up part, and what that
    # is told to start.
    class LoaderSteps
      # UEFI specification 2.10, section 3.5.1.1
      FALLBACK = '/EFI/BOOT/BOOTX64.EFI'
      # Programs that a loader in the same folder starts.
      NEXT = /\Agrub.*\.efi\z/i
      GRUB_SECTION = 'mods'

      # @param walk [Walk]
      # @param part [Table::Partition] the start-up part, a FAT volume
      def initialize(walk, part)
        @walk = walk
        @part = part
        @esp = walk.places.volume(part)
      end

      # @param entry [Computer::Entry, nil] that points to this disk
      # @return [Choice, nil] what is started; nil where the store of an NTFS system says it
      def take(entry)
        loader(entry)
        started
      end

      private

      # The firmware's own entry first, then the fallback path.
      def loader(entry)
        @entry = entry
        @loader = wish || FALLBACK
        if wish && head(@loader).nil?
          @walk.ask('entries', "Its start entry names #{plain(@loader)}, which is missing", 'The firmware goes on with the fallback path',
                    'the firmware’s entries')
          @loader = FALLBACK
        end
        @loader_head = head(@loader) || no_loader
        program
      end

      # @return [String, nil] the loader that the firmware's own entry names
      def wish = (@entry&.path || @walk.computer.loader)&.tr('\\', '/')

      def no_loader
        others = vendor_loaders
        unless others.any?
          @walk.broken(
            'loader', "#{plain(@loader)} is missing", 'The firmware has nothing to run', "start-up part, #{@loader}",
            part: @part.number, **from_image(any_of: [wish, @loader].compact.uniq)
          )
        end
        @walk.broken(
          'loader', "#{plain(@loader)} is missing", "#{plain(others.first)} is there, but no start entry names it",
          "start-up part, #{@loader}",
          part: @part.number, remedy: "Put #{plain(others.first)} in the fallback place", mend: 'fallback', about: { from: others.first }
        )
      end

      # Loaders in folders of their own; what begins others comes first.
      def vendor_loaders
        folders = files('/EFI', &:directory?).reject { |entry| entry.name.casecmp?('boot') }
        loaders = folders.flat_map { |folder| files(folder.path) { |entry| entry.file? && entry.name.downcase.end_with?('.efi') } }
        loaders.map(&:path).select { |path| loader?(path) }.sort_by { |path| [path.match?(/shim/i) ? 0 : 1, path] }
      rescue NotFound
        []
      end

      def files(folder, &) = @esp.entries(folder).select(&)

      def loader?(path)
        pe = Pe.read(head(path))
        !pe.nil? && pe.amd64? && pe.efi?
      end

      def program
        pe = Pe.read(@loader_head)
        @walk.broken('loader', "#{plain(@loader)} is no program", 'It has no header of one', where, part: @part.number, **again) unless pe
        unless pe.amd64?
          @walk.broken('loader', "#{plain(@loader)} is for another processor", "It is built for #{pe.machine_name}", where,
                       part: @part.number, **again)
        end
        unless pe.efi?
          @walk.broken(
            'loader', "#{plain(@loader)} is no EFI program", 'The firmware does not run it', where,
            part: @part.number, **again
          )
        end
        signed(pe)
      end

      def where = "start-up part, #{@loader}, its PE header"
      def again = from_image(paths: [@loader])
      def from_image(**about) = Step.from_image(@part, **about)

      def signed(pe)
        detail = "A loader for this processor, #{size_of(@loader)}, #{pe.signed? ? 'signed' : 'unsigned'}"
        unless @walk.computer.secure_boot? && !pe.signed?
          return @walk.ok('loader', "Runs #{plain(@loader)}", detail, where,
                          part: @part.number)
        end

        @walk.broken(
          'loader', "#{plain(@loader)} carries no signature", 'Secure boot is on: the firmware refuses it', where,
          part: @part.number, remedy: 'Switch secure boot off, or put a signed loader in its place'
        )
      end

      # @return [Choice, nil]
      def started
        pe = Pe.read(@loader_head)
        return unified(pe) if pe.unified?
        return by_grub(@loader, pe) if pe.section(GRUB_SECTION)
        return StoreSteps.new(@walk).take_uefi(@part, @loader) if StoreSteps.store_near(@esp, @loader)
        return by_entries if entries.any?

        following = beside
        return by_grub(following, Pe.read(head(following))) if following

        @walk.unknown(
          'entry', 'Its configuration is of another kind', 'There is no loader/entries to read: use the trial start', 'start-up part',
          part: @part.number
        )
      end

      def unified(pe)
        choice = Choice.new(title: ::File.basename(@loader), kernel: [@part, @loader], initrds: [], where: @loader, unified: pe)
        choice.options = Unified.new(@walk.places, choice).options
        @walk.ok('entry', 'The loader holds the kernel itself', "Its command line is “#{choice.options[0, 80]}”",
                 "#{@loader}, section .cmdline")
        choice
      end

      # @return [String, nil] a loader that is started by this one
      def beside
        folder = ::File.dirname(@loader)
        @esp.entries(folder).find { |entry| entry.file? && entry.name.match?(NEXT) && !entry.path.casecmp?(@loader) }&.path
      end

      def by_grub(path, pe)
        section = pe&.section(GRUB_SECTION)
        modules = section && GrubModules.find(bytes(path, section))
        device, prefix = modules&.prefix ? modules.place : [nil, '']
        part = device ? @walk.places.by_device(device) : @part
        steps = GrubSteps.new(@walk)
        steps.no_prefix(device) if part.nil? && modules.config.nil?
        folder = ::File.dirname(path)
        steps.take(part, prefix.empty? ? folder : prefix, modules, platform: 'efi', cmdpath: "(#{@walk.places.device(@part)})#{folder}")
      end

      def bytes(path, section)
        whole = @esp.file_head(path, [section.offset + section.size, GrubCore::LARGEST].min)
        whole.byteslice(section.offset..).to_s
      end

      def entries = @entries ||= LoaderEntries.new(@walk.places, @part)

      def by_entries
        choice = entries.chosen
        unless choice
          @walk.broken(
            'entry', 'The loader has no entry', 'loader/entries holds no .conf file', 'start-up part',
            part: @part.number, **from_image(folder: LoaderEntries::ENTRIES)
          )
        end
        @walk.broken('entry', 'The entry names no kernel', 'It has no line “linux” or “efi”', choice.where) unless choice.kernel
        @walk.ok('entry', "The loader picks “#{choice.title}”", "#{plain(choice.where)} names #{choice.kernel.last}", choice.where)
        choice
      rescue Damaged => e
        @walk.broken('entry', 'The loader’s files are damaged', e.message, e.where)
      end

      def head(path)
        @esp.file_head(path, Pe::HEAD)
      rescue NotFound
        nil
      end

      def size_of(path) = Units.bytes(@esp.entry(path).size)
      def plain(path) = path.delete_prefix('/')
    end
  end
end
