# frozen_string_literal: true

RSpec.describe Evrel::Linux::Appended do
  let(:path) { file('journal.jsonl') }

  it 'cuts off what a power cut left of a line, so that the next one stands by itself' do
    whole = %({"order":"clear","done":true}\n)
    ['', '{"ord', "{\"order\":\"part-2\",\"cluster\":#{'8' * 9000}"].each do |torn|
      File.binwrite(path, whole + torn)
      described_class.open(path) { nil }.tap { |io| io.puts('{"order":"part-2"}') }.close
      expect(File.read(path)).to eq("#{whole}{\"order\":\"part-2\"}\n")
    end
    File.binwrite(path, 'nothing whole')
    described_class.open(path).close
    expect(File.size(path)).to eq(0)
  end

  it 'keeps what a write goes on from, whatever byte it was cut at' do
    heading = { 'image' => 'i', 'plan' => 'p' }
    journal = -> { Evrel::Restore::Journal.new(path, heading) }
    journal.call.tap { |one| one.point('clear', done: true) && one.point('part-2', cluster: 41) }.close
    written = File.binread(path)
    ((written.index("\n") + 1)...written.bytesize).each do |cut|
      File.binwrite(path, written.byteslice(0, cut))
      again = journal.call
      again.point('part-2', cluster: 99)
      again.close
      last = journal.call
      expect(last.cluster('part-2')).to eq(99), "cut at byte #{cut}"
      expect(last.done?('clear')).to be(written.byteslice(0, cut).include?("true}\n"))
      last.close
    end
  end
end
