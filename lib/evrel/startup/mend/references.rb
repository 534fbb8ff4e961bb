# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # Identities that start-up files name and that no partition has any more
      # become those that the partitions have now.
      class References
        include Mend

        # All places are changed, or none.
        # @return [Draft]
        # @raise [Refused] where it cannot be told which partition is meant, where no file names it, or where files that may
        #   name it cannot be reached
        def draft
          reach
          @renewed = renewed
          unclear if @renewed.empty?
          found = table.partitions.to_h { |part| [part, texts(part)] }
          pieces = found.reject { |_, files| files.empty? }.flat_map { |part, files| rewritten(part, files) }
          raise Refused.new("no start-up file names #{@renewed.keys.first}", where: 'start-up files') if pieces.empty?

          names = found.values.flat_map(&:keys).join(', ')
          draft_of(pieces, title: 'Name the partitions by what they are now', before: @renewed.keys.join(', '),
                           after: "#{@renewed.values.join(', ')} in #{names}")
        end

        private

        def unclear
          spec = @context.about[:spec]
          hint = @context.image ? 'write it by hand, or choose another image' : 'name the image that the disk was written from'
          raise Refused.new("it cannot be told which partition #{spec ? "“#{spec}” means" : 'is meant'}",
                            where: spec || 'start-up files', hint:)
        end

        # Half of it would lead the start into a rescue shell: the loader would find what the system does not.
        def reach
          return if systems.any?

          part = table.partitions.find { |one| Volume::UNREAD.include?(@context.places.volume(one).kind) } or return
          where = "partition #{part.number} (#{@context.places.volume(part).kind})"
          raise Refused.new("the system's own files lie in #{where}, which cannot be changed from here: its fstab would name the old one",
                            where:, hint: 'give the partition its old identity back, or change all of them from a rescue system')
        end

        # @return [Hash{String=>String}] what is named → what is to be named
        def renewed
          spec = @context.about[:spec]
          all = @context.image ? by_image : {}
          return all if spec.nil? || all.any? { |old, _| spec.include?(old) }

          likely = spec && likely(spec.delete('"')) or return all
          all.merge(likely)
        end

        # A partition has the number that it had in the image.
        def by_image
          old = Table.read(@context.image) or return {}
          before = Places.new(@context.image, old)
          old.partitions.flat_map do |part|
            now = table.partitions.find { |one| one.number == part.number }
            now ? pairs(part, before, now) : []
          end.to_h
        end

        def pairs(part, before, now)
          [[part.guid, now.guid], [before.volume(part).uuid, @context.places.volume(now).uuid]]
            .select { |was, is| was && is && !was.casecmp?(is) && !in_use?(was) }
        end

        # One that another partition of this disk has is right where it stands.
        def in_use?(identity)
          table.partitions.any? { |part| [part.guid, @context.places.volume(part).uuid].compact.any? { |one| one.casecmp?(identity) } }
        end

        # Where the image does not say it: the partition that holds a system, for what is the root; the only other one of
        # that kind for what is mounted elsewhere.
        def likely(spec)
          part = root?(spec) ? systems.then { |some| some.first if some.size == 1 } : only_one(spec)
          part && named(spec, part)
        end

        # By the same kind of name; a device's path becomes one that does not change.
        # @return [Hash{String=>String}]
        def named(spec, part)
          key, old = spec.split('=', 2)
          volume = @context.places.volume(part)
          now = { 'UUID' => volume.uuid, 'PARTUUID' => part.guid, 'LABEL' => volume.label, 'PARTLABEL' => part.name }[key]
          return { spec => by_name(part, volume) } unless old
          return { old => now } if now && old.match?(/\A[\h-]{8,}\z/)

          now ? { spec => "#{key}=#{now}" } : {}
        end

        def systems = table.partitions.select { |part| SystemSteps::INITS.first(3).any? { |path| @context.places.exist?(part, path) } }

        def root?(spec)
          entry = mounts.find { |one| one.spec == spec }
          entry.nil? || entry.where == '/'
        end

        def mounts
          @mounts ||= systems.flat_map { |part| Mounts.new(@context, @context.places.volume(part)).entries }
        rescue NotFound
          @mounts = []
        end

        def only_one(spec)
          entry = mounts.find { |one| one.spec == spec } or return
          named = mounts.filter_map { |one| @context.places.find(one.spec) }
          rest = table.partitions.select { |part| kind?(part, entry.kind) } - named
          rest.first if rest.size == 1
        end

        def kind?(part, kind)
          found = @context.places.volume(part).kind
          kind == 'vfat' ? found.start_with?('fat') : found == kind
        end

        # Without an initial ramdisk a kernel knows partitions, not volumes.
        def by_name(part, volume) = @context.about[:ramdisk] && volume.uuid ? "UUID=#{volume.uuid}" : "PARTUUID=#{part.guid}"

        # @return [Hash{String=>String}] path → new contents
        def texts(part)
          files = Layout::References.new(part.window(disk)).texts_by_path
          files.filter_map do |path, text|
            changed = @renewed.reduce(text) { |now, (old, new)| now.gsub(/(?<![\w-])#{Regexp.escape(old)}(?![\w-])/i, new) }
            [path, changed] unless changed == text
          end.to_h
        end

        def rewritten(part, files) = edited(part) { |editor| files.each { |path, text| editor.put(path, text) } }
      end
    end
  end
end
