# frozen_string_literal: true

module Evrel
  module Volume
    # NTFS, mounted in the sandbox of the one command that writes into it: a link
    # on it leads to nothing of this machine, and none is followed.
    class NtfsEditor < Editor
      # Volume, file to copy, and the names on the way to its place.
      COPY = <<~SH
        volume=$1; from=$2; shift 2
        ntfs-3g "$volume" /mnt || exit 9
        at=/mnt; left=$#; code=0
        for name do
          at="$at/$name"; left=$((left - 1))
          if [ -L "$at" ]; then code=3
          elif [ "$left" -gt 0 ]; then [ -d "$at" ] || mkdir "$at" || code=4
          else cat "$from" > "$at" || code=4
          fi
          [ "$code" = 0 ] || break
        done
        umount /mnt || code=5
        exit "$code"
      SH
      # Mounting needs them; what is mounted is seen by this command alone (capabilities(7)).
      RIGHTS = %w[CAP_SYS_ADMIN CAP_SETUID CAP_SETGID].freeze
      LINK = 3

      private

      def put_file(name, from, _about)
        said = Evrel::Tool.run('sh', '-c', COPY, 'sh', @path, from, *names(name), write: [@path], read: [from], devices: ['/dev/fuse'],
                                                                                  rights: RIGHTS)
        return if said.success?
        raise Refused.new("#{name[0, 200].inspect} leads out of its folder", where: 'path') if said.code == LINK

        raise Damaged.new("the volume refuses #{name}: #{said.text.scrub.strip.lines.last.to_s.strip}", where: @path)
      end

      def names(name)
        name.split('/').reject { |one| ['', '.'].include?(one) }.tap do |list|
          wrong = list.empty? || list.any? { |one| one == '..' || one.include?("\0") }
          raise Refused.new("#{name[0, 200].inspect} leads out of its folder", where: 'path') if wrong
        end
      end
    end
  end
end
