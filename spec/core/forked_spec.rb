# frozen_string_literal: true

RSpec.describe Evrel::Linux::Forked do
  after { @copies.to_a.each { |pid| Evrel::Linux::Death.of(pid) } }

  def copy(**how, &) = described_class.fork(**how, &).tap { |pid| (@copies ||= []) << pid }

  it 'holds no pipe of another thread open: whoever reads from a program does not wait for the copy' do
    output, input = IO.pipe
    copy { sleep }
    input.close
    expect(output.wait_readable(5)).to be(output)
    expect(output.read).to eq('')
  ensure
    output&.close
  end

  it 'lets a program end that is read from while copies are made' do
    copying = Thread.new { 20.times { copy { sleep } } }
    said = Array.new(20) { |number| Evrel::Linux::Spawn.capture2e('echo', number.to_s).first }
    expect(said).to eq(Array.new(20) { |number| "#{number}\n" })
    copying.join
  end

  it 'keeps a pipe that the copy is to write to' do
    output, input = IO.pipe
    copy(keep: [input]) { input.write('from the copy') }
    input.close
    expect(output.read).to eq('from the copy')
  ensure
    output&.close
  end
end
