# frozen_string_literal: true

module Evrel
  # What is said where a file system has no room for what is written to it.
  module Room
    FULL = [Errno::ENOSPC, Errno::EDQUOT].freeze

    module_function

    # A medium that has no room left takes the beginning, and says so only the next time (pwrite(2)).
    # @param io [IO, Luks::Writer]
    # @param bytes [String] of which all is written, or an error raised
    # @param offset [Integer] bytes
    def put(io, bytes, offset)
      at = 0
      at += io.pwrite(at.zero? ? bytes : bytes.byteslice(at..), offset + at) while at < bytes.bytesize
    end

    # What lies below a folder may take so much and no more, however much room its file system has.
    # @param folder [String]
    # @param coming [Integer] bytes that are to come
    # @param most [Integer] bytes
    # @param what [String] for people
    # @raise [DoesNotFit]
    def bound(folder, coming, most, what)
      there = taken(folder)
      return if there + coming <= most

      raise DoesNotFit.new("#{what} may take #{Units.bytes(most)}: #{Units.bytes(there)} are taken, and #{Units.bytes(coming)} would come",
                           where: folder, hint: 'remove what nobody needs there, or allow more')
    end

    # @param stat [File::Stat]
    # @return [Integer] bytes that a file takes on the disk, its holes left out: st_blocks of stat(2)
    def of(stat) = stat.blocks * 512

    # @return [Integer] bytes that the files below a folder take on the disk
    def taken(folder)
      Dir.glob(::File.join(folder, '**', '*'), ::File::FNM_DOTMATCH).sum do |path|
        stat = ::File.lstat(path)
        stat.file? ? of(stat) : 0
      rescue Errno::ENOENT
        0
      end
    end

    # @param where [String] what is full, for people
    # @param missing [#call] gives the bytes that are still to come, at most; nil where that is not known
    # @raise [DoesNotFit] instead of the system's own error
    def guard(where, missing = -> {})
      yield
    rescue *FULL
      more = missing.call&.then { |bytes| ": up to #{Units.bytes(bytes)} more are needed" }
      raise DoesNotFit.new("there is no room left#{more}", where:, hint: 'make room there')
    end
  end
end
