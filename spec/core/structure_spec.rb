# frozen_string_literal: true

require 'prism'

# Which part of the house knows of which: web → app → core, and the stand-ins
# for a bench at one place only.
RSpec.describe 'The structure of Evrel' do
  root = File.expand_path('../..', __dir__)

  # @return [Hash{String=>Array<String>}] path → constants that it names, outermost first, and files that it requires
  def named(pattern)
    Dir[File.join(root, pattern)].to_h do |path|
      found = []
      walk(Prism.parse_file(path).value) { |node| found << name_of(node) }
      [path.delete_prefix("#{root}/"), found.compact]
    end
  end

  define_method(:root) { root }

  def walk(node, &block)
    block.call(node)
    node.compact_child_nodes.each { |child| walk(child, &block) }
  end

  def name_of(node)
    case node
    when Prism::ConstantReadNode then node.name.to_s
    when Prism::CallNode
      node.arguments&.arguments&.first.then { |one| one.unescaped if one.is_a?(Prism::StringNode) } if node.name.to_s.start_with?('require')
    end
  end

  # What Zeitwerk makes of files.
  def constants(pattern)
    Dir[File.join(root, pattern)].map { |path| File.basename(path, '.rb').split('_').map(&:capitalize).join }
  end

  def of_the_application
    constants('app/{shared,models,flows,jobs,services/*}/*.rb') + %w[Api Stations Config]
  end

  it 'has a core that knows neither the application, nor its libraries, nor the stand-ins' do
    strangers = %w[StandIns ActiveRecord ActiveSupport Sinatra Delayed Rack Demo] + %w[Technician Docket Computer Drive Seal Write Config]
    own = constants('lib/evrel/**/*.rb')
    named('lib/**/*.rb').each do |path, names|
      expect([path, names & (strangers - own)]).to eq([path, []])
      expect([path, names.grep(%r{app/|stand_ins|active_|sinatra|\Arack})]).to eq([path, []])
    end
  end

  it 'has an application that names stand-ins in one file' do
    naming = named('app/**/*.rb').select { |_, names| names.any? { |name| name == 'StandIns' || name.include?('stand_ins') } }
    expect(naming.keys).to eq(['app/shared/benches.rb'])
  end

  it 'has services that know no stations, and rows that know no services' do
    named('app/{services/*,models}/*.rb').each { |path, names| expect([path, names & ['Stations']]).to eq([path, []]) }
    services = constants('app/services/*/*.rb')
    named('app/{models,shared}/*.rb').each { |path, names| expect([path, names & services]).to eq([path, []]) }
  end

  it 'has stand-ins that know of the core only' do
    named('stand_ins/**/*.rb').each { |path, names| expect([path, names & of_the_application]).to eq([path, []]) }
  end

  it 'has pages without lines that are wider than a screen' do
    made = ['web/api/types.ts']
    files = Dir.chdir(root) { Dir['web/**/*.{ts,vue,css,html}'] - made }
    wide = files.flat_map do |path|
      File.readlines(File.join(root, path), chomp: true).each_with_index.filter_map { |line, i| "#{path}:#{i + 1}" if line.size > 120 }
    end
    expect(wide).to eq([])
  end

  it 'listens only where the kernel puts no line of somebody else by chance' do
    said = Dir.chdir(root) { Dir['{app,setup}/**/*.rb', 'bin/*', 'spec/start_spec.rb'] }.flat_map do |path|
      File.read(File.join(root, path)).scan(/'EVREL_(?:\w+_)?PORT'(?:, | => )'(\d+)'/).map { |(port)| [path, Integer(port)] }
    end
    by_chance = Integer(File.read('/proc/sys/net/ipv4/ip_local_port_range').split.first)
    expect(said.size).to be > 8
    expect(said.select { |_, port| port >= by_chance }).to eq([])
  end

  it 'is what docs/architecture.md says' do
    tree = File.read(File.join(root, 'docs/architecture.md'))[/```tree\n(.*?)```/m, 1]
    folders = tree.lines.filter_map { |line| line[%r{\A(\S+/)\s}, 1] }
    expect(folders.reject { |folder| Dir.exist?(File.join(root, folder)) }).to eq([])
    there = Dir.chdir(root) { Dir['{lib/evrel,app,app/services,lib/evrel/startup,lib/evrel/volume,lib/evrel/image}/*/'] }
    expect(there - folders).to eq([])
  end
end
