# frozen_string_literal: true

# Writes of one run that are carried out at the same time, in threads of one
# process, from one reading of their image; or a write from a drive and the image
# that is kept of that on the way. Each has its own journal, and ends by itself:
# one that fails leaves the row, and goes on alone.
class WrittenTogether
  # Seconds for which a write waits for the image that is taken along, before that reads for itself.
  PATIENCE = 60

  # @param write [Write]
  # @return [Array<Write, Taking>] what waits for its turn at the same bench and reads the same
  def self.waiting_with(write)
    run = write.docket.run_id or return write.takings.waiting.order(:id).to_a

    Write.waiting.joins(:docket).where(dockets: { run_id: run }, bench: write.bench).where.not(id: write.id).order(:id).to_a
  end

  # @param writes [Array<Write>] owned by this process, one at least or none but takings
  # @param takings [Array<Taking>]
  def initialize(writes, takings = [])
    @writes = writes
    @takings = takings
  end

  def call
    return @takings.each { |taking| TakingWork.new(taking).call } if @writes.empty?
    return WriteWork.new(@writes.first).call if @writes.one? && @takings.empty?

    shared { |readers| all(readers) }
  end

  private

  # Where the image cannot be opened, each says so for itself.
  def shared
    opened = false
    SourceAccess.open(@writes.first.source) do |image|
      opened = true
      WriteRun.keep_digests(@writes.first, image, anew: !@writes.first.begun?)
      how = { patience: @takings.any? ? PATIENCE : 0, writes: @writes.size }
      yield Evrel::Restore::SharedSource.new(image, @writes.size + @takings.size, **how).readers
    end
  rescue Evrel::Error, SystemCallError
    raise if opened

    @writes.each { |write| WriteWork.new(write).call }
    @takings.each { |taking| TakingWork.new(taking).call }
  end

  def all(readers)
    failed = [*@writes, *@takings].zip(readers).map { |work, reader| Thread.new { one(work, reader) } }.filter_map(&:value)
    raise failed.first if failed.any?
  end

  # @return [StandardError, nil] what is no end of a write, but of its worker
  def one(work, reader)
    what = work.is_a?(Taking) ? TakingWork : WriteWork
    ActiveRecord::Base.connection_pool.with_connection { what.new(work, reader).call }
    nil
  rescue StandardError => e
    e
  ensure
    reader.close
    ActiveRecord::Base.connection_pool.with_connection { Owner.done(work) }
  end
end
