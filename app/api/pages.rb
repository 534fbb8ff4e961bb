# frozen_string_literal: true

require 'rack/files'

module Api
  # The built front end: its files, and its one page for every other address.
  class Pages
    FOLDER = File.join(Config::ROOT, 'public')
    FOREVER = 'public, max-age=31536000, immutable'

    def initialize
      # File names of the build carry a hash of what is in them.
      @files = Rack::Files.new(FOLDER, { 'cache-control' => FOREVER })
    end

    def call(env)
      return @files.call(env) if env['PATH_INFO'].start_with?('/assets/', '/icon')
      return [405, { 'allow' => 'GET' }, []] unless %w[GET HEAD].include?(env['REQUEST_METHOD'])

      page(env)
    end

    private

    def page(env)
      file = File.join(FOLDER, 'index.html')
      return [503, { 'content-type' => 'text/plain' }, ["The front end is not built: run bin/start\n"]] unless File.file?(file)

      html = File.read(file).sub('__NONCE__', env.fetch(Headers::NONCE))
      [200, { 'content-type' => 'text/html; charset=utf-8', 'cache-control' => 'no-store' }, [html]]
    end
  end
end
