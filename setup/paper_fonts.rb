# frozen_string_literal: true

require 'tmpdir'

module Setup
  # The fonts of the pages, unpacked for the reports on paper.
  module PaperFonts
    FOLDER = File.join(ROOT, 'var', 'cache', 'fonts')
    KINDS = %w[next mono].freeze

    module_function

    def unpack
      return :nothing if KINDS.all? { |kind| File.exist?(File.join(FOLDER, "#{kind}.ttf")) }

      FileUtils.mkdir_p(FOLDER)
      Dir.mktmpdir('evrel-fonts') do |work|
        KINDS.each do |kind|
          name = "atkinson-hyperlegible-#{kind}"
          packed = File.join(ROOT, 'node_modules/@fontsource-variable', name, 'files', "#{name}-latin-wght-normal.woff2")
          FileUtils.cp(packed, "#{work}/#{kind}.woff2")
          Setup.run('woff2_decompress', "#{work}/#{kind}.woff2")
          FileUtils.cp("#{work}/#{kind}.ttf", FOLDER)
        end
      end
    end
  end
end
