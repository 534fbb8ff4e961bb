# frozen_string_literal: true

require 'json'

module Evrel
  module Image
    # What the structures of an image say about its wholeness, beside its
    # checksums.
    module Structure
      UNPROVED = 'taken before maps of used blocks were proved: what such a map wrongly called free is not in it'

      module_function

      # @param image [Native, Foreign]
      # @return [Array<String>] what is broken
      def problems(image)
        return [] if image.locked? # the tool would have to be told what opens it

        files = image.is_a?(Native) ? [image.disk_path] : image.members
        files.filter_map { |path| qcow2(image.shelf.local(path), path) }
      end

      # @return [Array<String>] what is worth knowing, and no damage
      def notes(image)
        document = image.manifest
        unclean = document.parts.select { |part| part.dig('volume', 'clean') == false }.map { |part| part_words(part) }
        damaged = document.parts.select { |part| part['damage'] }.map { |part| "#{part_words(part)}: #{part['damage']}" }
        [*document.document['findings'], *document.document.dig('table', 'findings'),
         *("not unmounted in order: #{unclean.join(', ')}" if unclean.any?), *damaged, *kept(document)].uniq
      end

      # @param document [Document]
      # @return [Array<String>] of which parts more is kept than their maps say, or may not have been, or nothing, and why
      def kept(document)
        doubtful = document.doubtful.map do |part|
          "the map of #{part_words(part)} is not believed, and what it calls free is kept too: #{part['volume']['doubts'].join('; ')}"
        end
        asleep = document.asleep.map { |part| "a system sleeps on #{part_words(part)}: its memory counts for more than what lies there" }
        whole = document.document['kept_whole']
        [*chosen(document), *doubtful, *asleep, *("all of the disk is kept: #{whole}" if whole), *(UNPROVED if document.unproved?)]
      end

      # What somebody left out when the image was taken.
      def chosen(document)
        parts = document.not_taken.map { |part| part_words(part) }
        files = document.temporary.map { |file| "#{file['path']} (#{Units.bytes(file['bytes'])})" }
        [*("left out when it was taken: #{Units.list(parts)}" if parts.any?),
         *("zeros, since the system makes it anew: #{files.join(', ')}" if files.any?)]
      end

      # Reference counts and tables, by the format's own tool. Leaked clusters waste room and nothing else.
      def qcow2(local, path)
        return if local.nil? || ::File.binread(local, 4) != Qcow2Header::MAGIC

        # Of this file alone: what it builds on is no business of this tool, wherever it is said to lie.
        node = { driver: 'qcow2', backing: nil, file: { driver: 'file', filename: local } }
        output = Tool.run('qemu-img', 'check', '--output=json', "json:#{JSON.generate(node)}", errors: true, read: [local]).text
        said = output.empty? ? { 'check-errors' => 1 } : JSON.parse(output)
        broken = said['corruptions'].to_i + said['check-errors'].to_i
        "#{::File.basename(path)}: #{broken} entries of its tables contradict each other" if broken.positive?
      rescue JSON::ParserError
        "#{::File.basename(path)}: its tables cannot be read"
      rescue Unreadable
        nil # the tool is not here: the clusters were read all the same
      end

      def part_words(part) = part['name'].to_s.empty? ? "part #{part['number']}" : part['name']
      private_class_method :qcow2, :part_words
    end
  end
end
