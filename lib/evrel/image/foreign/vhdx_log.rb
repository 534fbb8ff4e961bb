# frozen_string_literal: true

module Evrel
  module Image
    # The log of a VHDX file: what a program that was ended had written down and
    # not yet carried out ([MS-VHDX], 2.2.2 and 2.3). It is replayed on an
    # overlay: the file itself is never changed.
    module VhdxLog
      HEADERS = [64 * KIB, 128 * KIB].freeze
      SIZE = 4096
      NONE = ("\0" * 16).b
      FINDING = 'its log waited: it was replayed for reading, the file itself is as it was'

      module_function

      # @param source [Disk] the file
      # @return [Boolean]
      # @raise [Unreadable]
      def waits?(source)
        headers = HEADERS.filter_map { |at| header(source, at) }
        _, log = headers.max_by(&:first)
        !log.nil? && log != NONE
      end

      # @param path [String] of the file
      # @param folder [String] for the overlay
      # @return [String] the graph of what is read, as qemu's tools take it with --image-opts
      # @raise [Damaged] where the log cannot be replayed
      def replay(path, folder)
        overlay = ::File.join(folder, 'replayed.qcow2')
        graph = "driver=vhdx,file.driver=qcow2,file.file.driver=file,file.file.filename=#{overlay}"
        [['qemu-img', 'create', '-q', '-f', 'qcow2', '-b', ::File.expand_path(path), '-F', 'raw', overlay],
         ['qemu-img', 'check', '-q', '-r', 'all', '--image-opts', graph]].each do |command|
          said = Tool.run(*command, read: [path], write: [folder])
          next if said.success?

          raise Damaged.new("#{::File.basename(path)}: its log cannot be replayed: #{said.text.scrub.lines.first.to_s.strip}", where: path)
        end
        graph
      end

      # Signature 0, checksum 4 (CRC-32C, itself as zero), sequence number 8, identity of the log at 48.
      # @return [(Integer, String), nil]
      def header(source, at)
        return if at + SIZE > source.size

        bytes = source.read(at, SIZE)
        sum = bytes.unpack1('@4V')
        blanked = bytes.dup
        blanked[4, 4] = "\0\0\0\0".b
        [bytes.unpack1('@8Q<'), bytes.byteslice(48, 16)] if bytes.start_with?('head') && Crc.c32(blanked) ^ Crc::ALL == sum
      end
      private_class_method :header
    end
  end
end
