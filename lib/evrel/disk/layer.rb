# frozen_string_literal: true

require 'fileutils'
require 'json'

module Evrel
  module Disk
    # Something that tools may change without its being touched: what they write
    # goes into a layer above it, and is read from there afterwards. The whole,
    # or a piece of it, appears as a plain file of its own (FUSE), so that every
    # tool can work on it.
    class Layer
      MOUNTS = '/proc/self/mounts' # spaces and the like stand there as octal numbers
      # Bytes that lie in the layer; at is their place in its file, nil where they are zeros.
      Run = Struct.new(:start, :length, :at)

      # Removes a folder in which layers lie. Where a process was killed while it showed a part as a file, the file is still
      # mounted, by a daemon that is gone.
      # @param folder [String]
      def self.clear(folder)
        shown = ::File.readlines(MOUNTS).map { |line| line.split[1].gsub(/\\(\d{3})/) { Regexp.last_match(1).oct.chr } }
        shown.select { |place| place.start_with?("#{::File.expand_path(folder)}/") }
             .each { |place| Shown.forget(place) }
        FileUtils.rm_rf(folder)
      end

      # @param folder [String] where the layer lies
      # @param below [String] what it lies above: path, or URI that qemu's tools take
      # @param cluster [Integer] bytes that are kept at once
      # @param size [Integer, nil] bytes of the whole; as large as what is below where it is left out
      # @raise [Unreadable] where that cannot be opened
      def initialize(folder, below, cluster:, size: nil)
        @folder = folder
        @below = below
        tool('qemu-img', 'create', '-q', '-f', 'qcow2', '-o', "cluster_size=#{cluster}", '-b', below, '-F', 'raw', path, *size&.to_s)
      end

      # @return [String] of the layer's own file
      def path = ::File.join(@folder, 'layer.qcow2')

      # @param start [Integer] byte at which the piece begins
      # @param size [Integer] bytes; the file keeps that length
      # @yieldparam file [String]
      # @raise [Unsupported] where this machine cannot do it
      def as_file(start, size, &)
        Shown.file(@folder, nodes(start, size), 'part', size, writable: true, &)
      end

      # @return [Array<Run>] what was written, ascending
      def runs
        JSON.parse(tool('qemu-img', 'map', '--output=json', path)).filter_map do |run|
          # What lies behind the end of what is below was never written: it is not present.
          next unless run['depth'].zero? && run['present']

          Run.new(run['start'], run['length'], run['data'] ? run.fetch('offset') : nil)
        end
      end

      # @param run [Run]
      # @param from [Integer] byte within it
      # @param length [Integer]
      # @return [String]
      def read(run, from = 0, length = run.length)
        run.at ? ::File.binread(path, length, run.at + from) : "\0".b * length
      end

      private

      # Zeros that a tool writes take no room.
      def nodes(start, size)
        ['--blockdev', "driver=qcow2,node-name=all,detect-zeroes=on,file.driver=file,file.filename=#{path}",
         '--blockdev', "driver=raw,node-name=part,file=all,offset=#{start},size=#{size}"]
      end

      # @return [Array<String>] paths through which what is below is read
      def below = [::File.exist?(@below) ? @below : @below[/socket=([^&]+)/, 1]].compact

      def tool(*command)
        said = Tool.run(*command, write: [@folder], read: below)
        raise Unreadable.new("#{command.first} refuses: #{said.text.scrub.strip}", where: @below) unless said.success?

        said.text
      end
    end
  end
end
