# frozen_string_literal: true

require 'json'
require 'openssl'

module Evrel
  module Image
    # Brings the files of an image onto another shelf, byte for byte, into a
    # folder of its own there, which has its name only when it is complete. Each
    # piece is read back from the medium and held against what was read at first;
    # where checksums lie beside the image, each whole file is held against them
    # too. Cut off, it goes on behind the last piece that was written down.
    class Transfer
      PIECE = 16 * MIB
      JOURNAL = '.arriving.jsonl'

      # step: "copy" or "check"; done and total in bytes.
      Progress = Struct.new(:step, :done, :total, keyword_init: true)

      # path: of the image on the shelf that it came to; proved: whether every file matches the checksums that lay beside it.
      Arrived = Struct.new(:path, :proved, keyword_init: true)

      # @param shelf [Shelf::Folder, Shelf::Web] on which it lies
      # @param path [String] of the image on it
      # @param document [Document] what is known of it
      # @return [Array<String>] paths of all its files on that shelf, with the checksums that are of them alone
      def self.files(shelf, path, document)
        members = document.document['format'] == Manifest::FORMAT ? Native.files(shelf, path) : document.document['members'].to_a
        members + members.map { |member| "#{member}.sha256" }.select { |name| shelf.entry(name) }
      end

      # @param shelf [Shelf::Folder, Shelf::Web] on which it lies
      # @param path [String] of the image on it
      # @param members [Array<String>] as Transfer.files gives them
      # @param onto [Shelf::Folder]
      # @param tag [Integer] tells what it leaves unfinished from that of others
      def initialize(shelf, path, members, onto, tag:)
        raise Unreadable.new("#{path} has no files", where: path) if members.empty?

        @shelf = shelf
        @path = path
        @members = members
        @onto = onto
        @stage = ::File.join(onto.root, "#{::File.basename(name)}.arriving-#{tag.to_s(16)}")
      end

      # @return [Integer] bytes that it takes there
      # @raise [Unreadable] where one of its files is not there
      def size = files.sum(&:size)

      # @yieldparam progress [Progress]; a block that returns :stop ends it, and what was copied is kept
      # @return [Arrived]
      # @raise [Mismatch] where what arrived is not what was sent, or not what was taken: nothing of it is kept then
      # @raise [Stopped, Unreadable, DoesNotFit]
      def run(&told)
        @told = told
        begin_journal
        Room.guard(@onto.root, -> { size - @done.values.sum { |pieces| pieces.size * PIECE } }) { copy }
        sums = check
        proved = held_against(sums)
        arrive(proved)
      rescue Mismatch
        discard
        raise
      end

      # Nothing of it is kept.
      def discard
        FileUtils.rm_rf(@stage)
      end

      private

      # A folder keeps its name; files that lie among others come into one of their own.
      def name
        return @path if @members.all? { |member| member.start_with?("#{@path}/") }

        base = ::File.basename(@path).sub(/\.[^.]+\z/, '')
        common.empty? ? base : "#{common}/#{base}"
      end

      # @return [String] the deepest folder that all of its files lie in
      def common
        @common ||= begin
          folders = @members.map { |member| member.split('/')[0..-2] }
          folders.first.take_while.with_index { |part, index| folders.all? { |one| one[index] == part } }.join('/')
        end
      end

      def within(path) = common.empty? ? path : path.delete_prefix("#{common}/")

      def files
        @files ||= @members.map do |member|
          @shelf.entry(member) or raise Unreadable.new("#{member} is not there", where: member)
        end
      end

      # What was copied of files that have changed since then is of no use.
      def begin_journal
        head = JSON.generate(files: files.map { |file| [file.path, file.size, file.stamp] })
        journal = ::File.join(@stage, JOURNAL)
        lines = ::File.exist?(journal) ? ::File.readlines(journal, chomp: true) : []
        discard if lines.first != head
        FileUtils.mkdir_p(@stage)
        @done = Hash.new { |known, index| known[index] = {} }
        lines.drop(1).each { |line| remember(line) } if lines.first == head
        @journal = Linux::Appended.open(journal)
        @journal.puts(head) if @journal.size.zero?
      end

      # A line that was cut off is no line.
      def remember(line)
        index, piece, digest = JSON.parse(line)
        @done[index][piece] = digest
      rescue JSON::ParserError
        nil
      end

      def staged(file) = ::File.join(@stage, within(file.path))
      def length(file, piece) = [PIECE, file.size - (piece * PIECE)].min
      def pieces(file) = (0...file.size.fdiv(PIECE).ceil).map { |piece| [piece, length(file, piece)] }

      def copy
        moved = @done.each_pair.sum { |index, known| known.keys.sum { |piece| length(files[index], piece) } }
        files.each_with_index do |file, index|
          FileUtils.mkdir_p(::File.dirname(staged(file)))
          ::File.open(staged(file), ::File::RDWR | ::File::CREAT | ::File::BINARY) do |to|
            from = @shelf.open(file.path)
            pieces(file).each do |piece, length|
              next if @done[index][piece]

              copy_piece(from, to, index, piece, length)
              tell('copy', moved += length)
            end
            to.truncate(file.size)
            to.fsync
          ensure
            from&.close
          end
          # By their times, sizes and ends images of other makers are known again.
          ::File.utime(file.modified_at, file.modified_at, staged(file)) if file.modified_at
        end
      ensure
        @journal.close
      end

      def copy_piece(from, to, index, piece, length)
        data = from.read(piece * PIECE, length)
        Room.put(to, data, piece * PIECE)
        @journal.puts(JSON.generate([index, piece, @done[index][piece] = OpenSSL::Digest::SHA256.hexdigest(data)]))
        @journal.flush
      end

      # @return [Hash{String=>String}] member → SHA-256 of the file as it arrived
      def check
        checked = 0
        files.each_with_index.to_h do |file, index|
          whole = OpenSSL::Digest.new('SHA256')
          ::File.open(staged(file), 'rb') do |io|
            io.advise(:dontneed)
            pieces(file).each do |piece, length|
              data = io.read(length).to_s
              unless OpenSSL::Digest::SHA256.hexdigest(data) == @done[index][piece]
                raise Mismatch.new("#{file.path} does not read back as it was written", where: @onto.root)
              end

              whole << data
              tell('check', checked += length)
            end
          end
          [file.path, whole.hexdigest]
        end
      end

      # @return [Boolean] whether there is a sum for each file but the list itself
      def held_against(found)
        sums = Sums.beside(@shelf, @members)
        wrong = sums.find { |path, sum| found[path] != sum }
        raise Mismatch.new("#{wrong.first} does not match its checksum where it comes from", where: wrong.first) if wrong

        sums.any? && (@members - sums.map(&:first)).all? { |member| member.end_with?(Native::SUMS, '.sha256') }
      end

      # @raise [Refused] where something has that name already
      def arrive(proved)
        ::File.unlink(::File.join(@stage, JOURNAL))
        target = free_name
        to = Linux::Beneath.path(@onto.root, target)
        FileUtils.mkdir_p(::File.dirname(to))
        ::File.rename(@stage, to)
        ::File.open(::File.dirname(to), &:fsync)
        Arrived.new(path: @path == name ? target : "#{target}/#{within(@path)}", proved:)
      end

      def free_name
        (1..).each do |number|
          wanted = number == 1 ? name : "#{name}-#{number}"
          return wanted unless ::File.exist?(::File.join(@onto.root, wanted))
        end
      end

      def tell(step, done)
        raise Stopped, 'stopped' if @told&.call(Progress.new(step:, done:, total: size)) == :stop
      end
    end
  end
end
