# frozen_string_literal: true

module Setup
  # The packages of package-lock.json, and the pages built from web/.
  module FrontEnd
    module_function

    def install
      Setup.when_changed('npm', %w[package.json package-lock.json].map { |name| File.join(ROOT, name) }) do
        Setup.run('npm', 'ci', '--no-audit', '--no-fund', hint: 'is the npm registry reachable?')
      end
    end

    def build
      sources = Dir[File.join(ROOT, 'web', '**', '*')].select { |path| File.file?(path) }
      sources << File.join(ROOT, 'package-lock.json')
      built = File.exist?(File.join(ROOT, 'public', 'index.html'))
      FileUtils.rm_f(File.join(ROOT, 'var', 'stamps', 'build')) unless built
      Setup.when_changed('build', sources) { Setup.run('npm', 'run', '--silent', 'build') }
    end
  end
end
