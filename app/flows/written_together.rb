# frozen_string_literal: true

# Writes of one run that are carried out at the same time, in threads of one
# process, from one reading of their image. Each has its own journal, and ends
# by itself: one that fails leaves the row, and goes on alone.
class WrittenTogether
  # @param write [Write]
  # @return [Array<Write>] of its run, that wait for their turn at the same bench
  def self.waiting_with(write)
    run = write.docket.run_id or return []

    Write.waiting.joins(:docket).where(dockets: { run_id: run }, bench: write.bench).where.not(id: write.id).order(:id).to_a
  end

  # @param writes [Array<Write>] owned by this process
  def initialize(writes)
    @writes = writes
  end

  def call
    return WriteWork.new(@writes.first).call if @writes.one?

    shared { |readers| all(readers) }
  end

  private

  # Where the image cannot be opened, each says so for itself.
  def shared
    opened = false
    SourceAccess.open(@writes.first.source) do |image|
      opened = true
      yield Evrel::Restore::SharedSource.new(image, @writes.size).readers
    end
  rescue Evrel::Error, SystemCallError
    raise if opened

    @writes.each { |write| WriteWork.new(write).call }
  end

  def all(readers)
    failed = @writes.zip(readers).map { |write, reader| Thread.new { one(write, reader) } }.filter_map(&:value)
    raise failed.first if failed.any?
  end

  # @return [StandardError, nil] what is no end of a write, but of its worker
  def one(write, reader)
    ActiveRecord::Base.connection_pool.with_connection { WriteWork.new(write, reader).call }
    nil
  rescue StandardError => e
    e
  ensure
    reader.close
    ActiveRecord::Base.connection_pool.with_connection { Owner.done(write) }
  end
end
