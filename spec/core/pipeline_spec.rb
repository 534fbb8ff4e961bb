# frozen_string_literal: true

RSpec.describe Evrel::Pipeline do
  def results(jobs, work) = [].tap { |found| described_class.each(jobs, work) { |result| found << result } }

  it 'gives results in the order of the jobs, whatever takes longest' do
    expect(results(1..40, ->(job, _out) { sleep(rand / 500) && (job * 2) })).to eq((1..40).map { |job| job * 2 })
    expect(results([], ->(job, _out) { job })).to eq([])
  end

  it 'raises at the place where the work failed, after all results before it' do
    seen = []
    work = ->(job, _out) { job == 7 ? raise(Evrel::Mismatch, 'seven') : job }
    expect { described_class.each(1..40, work) { |result| seen << result } }.to raise_error(Evrel::Mismatch, 'seven')
    expect(seen).to eq([1, 2, 3, 4, 5, 6])
  end

  it 'takes jobs only as it goes, and leaves no thread behind' do
    taken = 0
    jobs = Enumerator.new { |into| loop { into << (taken += 1) } }
    before = Thread.list.size
    expect { described_class.each(jobs, ->(job, _out) { job }) { |result| raise Interrupt if result == 5 } }.to raise_error(Interrupt)
    expect(taken).to be < 30
    expect(Thread.list.size).to eq(before)
  end

  it 'leaves alone what was copied of a string that is filled again' do
    memory = Evrel::Linux::SharedMemory.new(70_000)
    buffer = "\0".b * 70_000
    copies = %w[low high].map do |tide|
      memory.write(0, tide * 10_000)
      memory.read_into(buffer, 0, 30_000).dup
    end
    expect(copies.map { |copy| copy.byteslice(0, 8) }).to eq(%w[lowlowlo highhigh])
  ensure
    memory&.close
  end
end
