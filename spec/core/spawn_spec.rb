# frozen_string_literal: true

# Held against what Ruby's own way does with the same.
RSpec.describe Evrel::Linux::Spawn do
  def both(*command, **options)
    [described_class, Process].map do |way|
      pid = way.spawn(*command, **options, out: file('out'), err: file('err'))
      [Process.wait2(pid).last.exitstatus, File.read(file('out')), File.read(file('err'))]
    end
  end

  around { |example| Dir.chdir('/') { example.run } }

  { 'words as they are' => [['printf', '%s|', 'a b', '$HOME', "it's", '', 'Fähre']],
    'an environment of its own' => [[{ 'QUAY' => 'Holm', 'HOME' => nil }, 'sh', '-c', 'echo "$QUAY ${HOME-none} ${PATH:+path}"']],
    'another folder' => [%w[pwd], { chdir: '/tmp' }],
    'a closed input' => [['sh', '-c', 'read line || echo none'], { in: :close }],
    'a file as its input' => [%w[wc -l], { in: '/etc/passwd' }],
    'how it ended' => [['sh', '-c', 'echo said >&2; exit 7']],
    'a group of its own' => [['sh', '-c', 'test $(ps -o pgid= -p $$) = $$'], { pgroup: true }],
    'no open file of ours' => [['sh', '-c', 'ls /proc/self/fd | wc -l']] }.each do |what, (command, options)|
    it "gives a program #{what}" do
      ours, theirs = both(*command, **options.to_h)
      expect(ours).to eq(theirs)
    end
  end

  it 'writes both streams to one place, in their order, and behind what was there' do
    File.write(file('log'), "before\n")
    pid = described_class.spawn('sh', '-c', 'echo one; echo two >&2; echo three', out: [file('log'), 'a'], err: %i[child out])
    Process.wait(pid)
    expect(File.readlines(file('log'), chomp: true)).to eq(%w[before one two three])
  end

  it 'says what cannot be started, and takes no word that ends early' do
    expect { described_class.spawn('no-such-program') }.to raise_error(Errno::ENOENT, /no-such-program/)
    expect { described_class.spawn('/etc/passwd') }.to raise_error(Errno::EACCES)
    expect { described_class.spawn('true', chdir: '/no-such-folder') }.to raise_error(Errno::ENOENT)
    expect { described_class.spawn('echo', "a\0b") }.to raise_error(ArgumentError)
  end

  it 'is read and written to as by Open3' do
    expect(described_class.capture2e('sh', '-c', 'cat; echo said >&2', stdin_data: "typed\n").first).to eq("typed\nsaid\n")
    out, said, status = described_class.capture3('sh', '-c', 'echo out; echo said >&2; exit 3')
    expect([out, said, status.exitstatus]).to eq(["out\n", "said\n", 3])
    expect([described_class.run('true'), described_class.run('false')]).to eq([true, false])
  end

  # Pipes of Ruby do not wait, programs do.
  it 'waits for what is written later' do
    said = described_class.popen2e('tr', 'a', 'b') do |input, output|
      sleep 0.1
      input.write('aha')
      input.close
      output.read
    end
    expect(said).to eq('bhb')
  end
end
