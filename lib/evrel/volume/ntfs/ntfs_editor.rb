# frozen_string_literal: true

module Evrel
  module Volume
    # NTFS. A file goes into a folder that is there without being mounted. Where
    # folders have to be made it is mounted in the sandbox of that one command: a
    # link on it leads to nothing of this machine, and none is followed.
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
      # What a link begins with that is kept as a file (INTX_SYMBOLIC_LINK, layout.h of ntfs-3g).
      INTERIX = "IntxLNK\x01".b

      private

      def put_file(name, from, _about)
        way = names(name)
        Disk::File.open(@path) do |disk|
          volume = Volume.recognise(disk)
          kinds = way.each_index.map { |at| kind(volume, way[0..at]) }
          raise outside(name) if kinds.include?(:other)

          way.size > 1 && kinds[-2] != :directory ? make(name, way, from) : copy(name, way, from)
        end
      end

      # @return [Symbol, nil] as in an Entry, :other for links of any kind; nil where nothing is there
      def kind(volume, way)
        entry = volume.entry(path = "/#{way.join('/')}")
        return :other if entry.type == :file && entry.size > INTERIX.bytesize && volume.file_head(path, INTERIX.bytesize) == INTERIX

        entry.type
      rescue NotFound
        nil
      end

      def copy(name, way, from)
        said = Evrel::Tool.run('ntfscp', '-q', @path, from, "/#{way.join('/')}", write: [@path], read: [from])
        failed(name, said) unless said.success?
      end

      def make(name, way, from)
        said = Evrel::Tool.run('sh', '-c', COPY, 'sh', @path, from, *way, write: [@path], read: [from], devices: ['/dev/fuse'], rights:)
        return if said.success?
        raise outside(name) if said.code == LINK

        failed(name, said)
      end

      def rights
        return RIGHTS if Process.euid.zero?

        raise Unsupported.new('a folder for it is not there, and only root can make one in this file system',
                              where: @path, hint: 'let its own system make the folder')
      end

      def outside(name) = Refused.new("#{name[0, 200].inspect} leads out of its folder", where: 'path')

      def failed(name, said)
        raise Damaged.new("the volume refuses #{name}: #{said.text.scrub.strip.lines.last.to_s.strip}", where: @path)
      end

      def names(name)
        name.split('/').reject { |one| ['', '.'].include?(one) }.tap do |list|
          wrong = list.empty? || list.any? { |one| one == '..' || one.include?("\0") }
          raise outside(name) if wrong
        end
      end
    end
  end
end
