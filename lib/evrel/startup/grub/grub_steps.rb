# frozen_string_literal: true

module Evrel
  module Startup
    # From where GRUB's own files lie to the kernel that it starts.
    class GrubSteps
      CONFIG = 'grub.cfg'
      # Logical, encrypted and mirrored volumes as GRUB names them: they are put together by its core.
      INSIDE = %r{\A(?:lvm|lvmid|cryptouuid|crypto|mduuid|md|ldm)[/\d]}

      # @param walk [Walk]
      def initialize(walk)
        @walk = walk
      end

      # @param part [Table::Partition, nil] where its files lie; nil where its own commands have to find it
      # @param prefix [String] folder there
      # @param modules [GrubModules, nil] what is built into it
      # @param loaded [Hash] how it was loaded, as GrubConfig.new takes it
      # @return [Choice]
      def take(part, prefix, modules = nil, **loaded)
        @config = GrubConfig.new(@walk.places, part, prefix, **loaded)
        part, prefix, choice = own_commands(modules.config) if modules&.config
        return entry(choice, read_by_itself(choice)) if choice

        path = "#{prefix.chomp('/')}/#{CONFIG}"
        configuration(part, path)
        entry(@config.choice(path), path)
      rescue Damaged => e
        part, path = @config.damaged
        @walk.broken('configuration', 'GRUB’s configuration cannot be followed', e.message, [path, e.where].compact.uniq.join(', '),
                     part: part&.number, **(part ? from_image(part, path) : {}))
      end

      # Its own files lie where nothing is read here, or on no part of this disk.
      # @param device [String, nil] as GRUB names it
      def no_prefix(device)
        if device.to_s.match?(INSIDE)
          @walk.unknown('configuration', 'What GRUB is told cannot be read',
                        "It reads its files on (#{device}), which is not read here: use the trial start", 'inside of its core')
        end
        @walk.broken('prefix', 'GRUB does not find its own files', "It looks on #{device || 'no disk'}, which is not there",
                     'inside of its core', remedy: 'Restore that part from the image')
      end

      private

      def own_commands(text)
        choice = @config.embedded(text)
        part, prefix = @config.prefix
        return [part, prefix, choice] if part || choice

        missing = @config.missing.first
        @walk.broken(
          'prefix', 'GRUB does not find its own files',
          missing ? "It searches for #{missing.what}, which no part of this disk has" : 'Its own commands name no part of this disk',
          'inside of its core',
          **identity_back(missing)
        )
      end

      # @return [String] the configuration that its own commands name, or where they stand
      def read_by_itself(choice)
        part, path = choice.config
        where = part ? "#{path} on #{@walk.places.word(part)}" : path
        @walk.ok('configuration', 'GRUB finds its configuration', where, path, part: part&.number)
        path
      end

      # What is packed into a loader, or lies where nothing is read here, cannot be told another identity.
      def identity_back(missing)
        return { remedy: 'Restore that part from the image' } unless missing&.spec

        { remedy: 'Give the part the identity back that it has in the image', mend: 'old-identity', about: { spec: missing.spec } }
      end

      # What it reads itself may be what is not read here.
      def unread(part, path)
        kind = @walk.places.volume(part).kind
        @walk.unknown('configuration', 'What GRUB is told cannot be read',
                      "It reads #{path} on #{@walk.places.word(part)}, a volume of kind #{kind}: use the trial start",
                      "partition #{part.number}", part: part.number)
      end

      def configuration(part, path)
        return unread(part, path) unless @walk.places.volume(part).browsable?

        if @walk.places.exist?(
          part, path
        )
          return @walk.ok('configuration', 'GRUB finds its configuration', "#{path} on #{@walk.places.word(part)}", path,
                          part: part.number)
        end

        # What its own commands name comes first.
        part, path = @config.missing.filter_map(&:file).find(&:first) || [part, path]
        @walk.broken(
          'configuration', 'GRUB has no configuration', "#{path} is not on #{@walk.places.word(part)}", path,
          part: part.number, **from_image(part, path)
        )
      end

      def from_image(part, path) = Step.from_image(part, paths: [path])

      def entry(choice, path)
        nothing(choice, path) unless choice&.kernel || choice&.chained
        lost(choice)
        if choice.chained
          @walk.unknown('entry', "GRUB hands over to #{choice.chained.last}", 'What that starts is not read here: use the trial start',
                        choice.where)
        end
        picks(choice)
        choice
      end

      # A place that it searches for may say why, or a configuration that it reads.
      def nothing(choice, path)
        unfound(@config.missing.find(&:spec)) if @config.missing.any?(&:spec)
        part, file = @config.missing.filter_map(&:file).find(&:first)
        remedy = part ? from_image(part, file) : { remedy: 'Choose another image, or write the entry by hand' }
        @walk.broken('entry', 'GRUB has nothing to start', choice ? "“#{choice.title}” names no kernel" : "#{path} has no entry", path,
                     part: part&.number, **remedy)
      end

      # A search that finds nothing holds GRUB up, for some seconds or until a key is pressed.
      def picks(choice)
        title = choice.title ? "GRUB picks “#{choice.title}”" : 'GRUB starts without a menu'
        # Other searches may find what lies where nothing is read here.
        lost = hidden ? @config.in_vain : @config.missing.find(&:spec)
        return @walk.ok('entry', title, "#{choice.where} names #{choice.kernel.last}", choice.where) unless lost&.spec

        @walk.ask('entry', "#{title}, after a message", "It searches for #{lost.what}, which no part of this disk has, and goes on",
                  lost.where, **(hidden ? identity_back(lost) : renamed(lost)))
      end

      def renamed(missing)
        { remedy: 'Write the identity that the part has now into the configuration', mend: 'references', about: { spec: missing.spec } }
      end

      # GRUB reads more kinds of volumes than are read here: what is not found may lie in there.
      # @return [Table::Partition, nil]
      def hidden
        @walk.places.partitions.find { |part| Volume::UNREAD.include?(@walk.places.volume(part).kind) }
      end

      # The kernel is on no part of this disk, or not on the one where GRUB is after a search in vain: that says why.
      def lost(choice)
        part, path = choice.kernel || choice.chained
        return if part && (@config.in_vain.nil? || there?(part, path))

        unfound(@config.in_vain || @config.missing.last) if @config.missing.any?
        @walk.broken('entry', 'GRUB does not find the kernel’s part', 'It is named on a disk that is not there', choice.where,
                     remedy: 'Choose another image, or write the entry by hand')
      end

      def there?(part, path) = !@walk.places.volume(part).browsable? || @walk.places.exist?(part, path)

      def unfound(missing)
        part = hidden
        if part
          @walk.unknown('entry', 'What GRUB searches for may lie where nothing is read here',
                        "No part that is read has #{missing.what}; #{@walk.places.word(part)} is a volume of kind " \
                        "#{@walk.places.volume(part).kind}: use the trial start", missing.where, **identity_back(missing))
        end
        about = missing.spec ? renamed(missing) : { remedy: 'Restore that part from the image' }
        @walk.broken('entry', 'GRUB does not find the part that it searches for', "No part of this disk has #{missing.what}", missing.where,
                     **about)
      end
    end
  end
end
