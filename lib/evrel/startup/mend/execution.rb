# frozen_string_literal: true

require 'json'

module Evrel
  module Startup
    module Mend
      # Carries out what a mend would change, and takes it back. What stood there
      # is kept in a file before anything is written.
      module Execution
        module_function

        # @param disk [Disk] writable
        # @param draft [Draft]
        # @param record [String] path of the file that keeps what stood there; it must not exist
        # @raise [Refused] where the disk does not hold any more what the draft was made from
        # @raise [Mismatch] where the disk did not keep it
        def apply(disk, draft, record)
          unless draft.changes.all? { |change| disk.read(change.offset, change.before.bytesize) == change.before }
            raise Refused.new('the disk has changed since: nothing was written', where: 'disk', hint: 'work out the mend again')
          end

          keep(draft, record)
          write(disk, draft.changes.map { |change| [change.offset, change.after] })
        end

        # @param disk [Disk] writable
        # @param record [String]
        # @raise [Refused] where something else was written there since
        # @raise [Mismatch] where the disk did not keep it
        # @raise [Damaged, NotFound] where the record is not whole
        def undo(disk, record)
          changes = read(record)
          # Cut off in the middle, some may be done and others not: both can be taken back.
          unless changes.all? { |change| [change.before, change.after].include?(disk.read(change.offset, change.before.bytesize)) }
            raise Refused.new('something else was written there since: it cannot be taken back', where: 'disk')
          end

          write(disk, changes.reverse.map { |change| [change.offset, change.before] })
        end

        # @return [Array<Change>]
        def read(record)
          lines = ::File.readlines(record, chomp: true)
          head = JSON.parse(lines.shift.to_s)
          raise Damaged.new('the record of the mend is not whole', where: record) unless head['places'] == lines.size

          lines.map do |line|
            JSON.parse(line).then do |one|
              Change.new(one['offset'], one['before'].unpack1('m0'), one['after'].unpack1('m0'))
            end
          end
        rescue JSON::ParserError, ArgumentError
          raise Damaged.new('the record of the mend is not whole', where: record)
        rescue Errno::ENOENT
          raise NotFound.new('there is no record of such a mend', where: record)
        end

        # @api private
        def keep(draft, record)
          ::File.open(record, ::File::WRONLY | ::File::CREAT | ::File::EXCL) do |file|
            file.puts(JSON.generate({ mend: draft.mend, title: draft.title, places: draft.changes.size }))
            draft.changes.each do |change|
              file.puts(JSON.generate({ offset: change.offset, before: [change.before].pack('m0'), after: [change.after].pack('m0') }))
            end
            file.fsync
          end
        end

        # @api private
        def write(disk, pieces)
          pieces.each { |offset, bytes| disk.write(offset, bytes) }
          disk.flush
          disk.drop_cache
          wrong = pieces.find { |offset, bytes| disk.read(offset, bytes.bytesize) != bytes }
          raise Mismatch.new('the disk did not keep what was written', where: "byte #{wrong.first}") if wrong
        end
      end
    end
  end
end
