# frozen_string_literal: true

module DriveWork
  # Measures on a sample of a drive what an image of it would take, part by part
  # and at each level.
  class Measure < Base
    def run
      reading do |disk|
        @disk = disk
        surveying = survey
        yield({ done: 0, total: parts.size })
        measured = parts.map.with_index { |part, at| measured(part).tap { yield({ done: at + 1, total: parts.size }) } }
        { whole: @map.member, survey: surveying, parts: measured }
      end
    end

    private

    # @return [Float] seconds that it takes to find out what is used, as it will before anything is taken
    def survey
      before = Process.clock_gettime(Process::CLOCK_MONOTONIC)
      @map = Evrel::Image::UsedMap.new(@disk)
      Evrel::Image::LeftOut.new(@map, @disk.size).summary
      (Process.clock_gettime(Process::CLOCK_MONOTONIC) - before).round(2)
    end

    def parts = @map.all
    def levels = Evrel::Image::CaptureOptions::LEVELS

    # @return [Hash] temporary: the files that need not be kept; with and without: what it takes with them and without
    def measured(part)
      @map.only([part.number]) if @map.table && @map.member.nil?
      files = Evrel::Image::Temporary.of(@map)
      { number: part.number, used_bytes: part.used_bytes, doubts: part.doubts, damage: part.error&.message,
        temporary: files.map(&:to_h), with: sampled([]), without: (sampled(files.flat_map(&:ranges).sort) if files.any?) }.compact
    end

    # @return [Hash{String=>Hash}] level → stored and seconds, as [low, high]
    def sampled(zeros)
      names = levels.invert
      found = Evrel::Image::Sample.new(@disk, @map, levels.values, zeros:).forecasts
      found.to_h { |one| [names.fetch(one.level), { stored: one.stored, seconds: one.seconds.map { |seconds| seconds.round(2) } }] }
    end
  end
end
