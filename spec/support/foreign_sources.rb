# frozen_string_literal: true

# Disks and volumes that others made: the samples of Debian's source packages,
# fetched by apt from where this machine gets its own packages, into var/cache.
module ForeignSources
  FOLDER = File.expand_path('../../var/cache/sources', __dir__)

  module_function

  # @param package [String] of Debian
  # @return [String] a folder with its sources
  # @raise [RuntimeError] with what apt said
  def fetch(package)
    folder = File.join(FOLDER, package)
    return folder if File.exist?(File.join(folder, 'complete'))

    FileUtils.mkdir_p(folder)
    update
    said, = Evrel::Linux::Spawn.capture2e('apt-get', *options, 'source', '--download-only', package, chdir: folder)
    archive = Dir[File.join(folder, '*.orig.tar.*')].reject { |name| name.end_with?('.asc') }.first or raise "#{package}: #{said}"
    _, status = Evrel::Linux::Spawn.capture2e('tar', 'xf', archive, '--strip-components=1', chdir: folder)
    raise "#{archive} cannot be unpacked" unless status.success?

    FileUtils.touch(File.join(folder, 'complete'))
    folder
  end

  # @yieldparam path [String] of each sample, unpacked, gone afterwards
  def each_sample(package, pattern, within)
    Dir[File.join(fetch(package), pattern)].each do |packed|
      path = File.join(within, 'sample')
      tool = { '.xz' => 'xz', '.gz' => 'gzip', '.bz2' => 'bzip2' }[File.extname(packed)]
      system('sh', '-c', "#{tool ? "#{tool} -dc" : 'cat'} \"$1\" | dd \"of=$2\" bs=64k conv=sparse status=none", 'sh', packed, path)
      yield path, packed
      FileUtils.rm_f(path)
    end
  end

  # Lists of its own: those of the machine stay as they are.
  def options
    { 'Dir::Etc::sourcelist' => '/dev/null', 'Dir::Etc::sourceparts' => File.join(FOLDER, 'parts'),
      'Dir::State::lists' => File.join(FOLDER, 'lists'), 'Dir::Cache' => File.join(FOLDER, 'cache'), 'APT::Sandbox::User' => 'root' }.flat_map { |name, value| ['-o', "#{name}=#{value}"] }
  end

  def update
    return if File.directory?(File.join(FOLDER, 'lists'))

    %w[parts lists/partial cache/archives/partial].each { |name| FileUtils.mkdir_p(File.join(FOLDER, name)) }
    lines = File.readable?('/etc/apt/sources.list') ? File.readlines('/etc/apt/sources.list') : []
    lines += Dir['/etc/apt/sources.list.d/*.list'].flat_map { |file| File.readlines(file) }
    File.write(File.join(FOLDER, 'parts', 'own.list'), lines.grep(/^deb /).map { |line| line.sub('deb ', 'deb-src ') }.join)
    Dir['/etc/apt/sources.list.d/*.sources'].each do |file|
      text = File.read(file).gsub(/^Types:.*/, 'Types: deb-src')
      File.write(File.join(FOLDER, 'parts', File.basename(file)), text)
    end
    Evrel::Linux::Spawn.capture2e('apt-get', *options, 'update')
  end
end
