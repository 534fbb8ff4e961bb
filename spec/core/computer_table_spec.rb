# frozen_string_literal: true

RSpec.describe Evrel::Inventory::Table do
  def read(text) = described_class.new(text)

  it 'is read with commas, semicolons or tabs, quotes, and a byte order mark' do
    { "name,place\nA,\"Pier 2, north\"\n" => { 'name' => 'A', 'place' => 'Pier 2, north' },
      "\uFEFFname;place\r\nA;\"the \"\"old\"\" pier\"\r\n" => { 'name' => 'A', 'place' => 'the "old" pier' },
      "name\tplace\nA\t Pier 2 \n" => { 'name' => 'A', 'place' => 'Pier 2' },
      "name,place,\nA,,\n" => { 'name' => 'A', 'place' => '' } }.each do |text, values|
      expect(read(text).rows.map(&:values)).to eq([values])
    end
  end

  it 'knows each row by the line in which it begins' do
    table = read("name;place\nA;\"one\ntwo\"\n\n;;\nB;three\n".sub(';;', ';'))
    expect(table.rows.map { |row| [row.line, row.values['name']] }).to eq([[2, 'A'], [6, 'B']])
  end

  it 'says what is wrong, and in which line' do
    { '' => /is empty/, "name,Name\n" => /two columns called name/, "name,place\nA,x\nB,\"y\nC,z\n" => /line 3: a quote is not closed/,
      "name,place\nA,x\"y\n" => /line 2: a quote stands where none may be/, "name\nA,B\n" => /line 2 has more fields \(2\)/,
      "name\n\xFF".b => /no text/, "name\n\0" => /no text/, "name\n#{"A\n" * 5001}" => /more than 5000 rows/,
      'n' * ((2 * (1024**2)) + 1) => /more than 2 MiB/ }.each do |text, why|
      expect { read(text) }.to raise_error(Evrel::Damaged, why)
    end
  end

  it 'answers whatever is given to it with a table or a typed error' do
    random = Random.new(7)
    400.times do
      text = Array.new(random.rand(60)) { ['"', ',', ';', "\n", "\r", "\t", 'a', 'ü', "\xFF", ' '].sample(random:) }.join
      read("name,place\n#{text}")
    rescue Evrel::Damaged
      next
    end
  end
end
