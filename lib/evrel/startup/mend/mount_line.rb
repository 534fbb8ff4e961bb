# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # An entry of fstab whose disk is gone holds the start up no more: it is
      # mounted where it is there, and missed by nobody where it is not.
      class MountLine
        include Mend

        OPTIONS = 'nofail,x-systemd.device-timeout=5s'

        # about: number (of the part with the root), line
        # @return [Draft]
        # @raise [Refused] where that line is none, or says so already
        def draft
          part = @context.part
          text = @context.places.text(part, Mounts::PATH, Mounts::LARGEST)
          lines = text.lines
          line = lines[@context.about.fetch(:line) - 1] or raise NotFound.new("#{Mounts::PATH} has no such line", where: Mounts::PATH)
          lines[@context.about[:line] - 1] = changed(line)
          pieces = edited(part) { |editor| editor.put(Mounts::PATH, lines.join) }
          draft_of(pieces, title: "Start without #{line.split[1]}", before: line.strip, after: changed(line).strip)
        end

        private

        # The fourth field; the spaces around it stay.
        def changed(line)
          fields = line.match(/\A(\s*\S+\s+\S+\s+\S+\s+)(\S+)(.*)\z/m)
          raise Refused.new("line #{@context.about[:line]} of #{Mounts::PATH} mounts nothing", where: Mounts::PATH) unless
            fields && !line.start_with?('#')
          raise Refused.new('it does not hold up the start already', where: Mounts::PATH) if fields[2].split(',').include?('nofail')

          "#{fields[1]}#{fields[2]},#{OPTIONS}#{fields[3]}"
        end
      end
    end
  end
end
