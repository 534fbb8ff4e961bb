# frozen_string_literal: true

require 'cgi'
require 'json'
require 'rack'
require 'time'

module StandIns
  # A plain file server as one may stand in an office: index pages, ranges,
  # basic sign-in. A file server.json in its folder makes it misbehave, read
  # anew for every request:
  #
  #   {"user": "quay", "password": "…",     who may read; without it everybody
  #    "bytes_per_second": 4000000,         how slow it is
  #    "drop_every": 5,                     every fifth answer breaks off in the middle
  #    "lost_password": true,               nobody is let in any more
  #    "truncated": {"a/disk.qcow2": 9000}} files that end early, by path
  class FileServer
    SETTINGS = 'server.json'
    PIECE = 256 * 1024

    # @param folder [String] what is served
    # @param settings [String] path of the settings
    def initialize(folder, settings: File.join(folder, SETTINGS))
      @folder = File.realpath(folder)
      @settings_file = settings
      @answers = 0
    end

    def call(env)
      request = Rack::Request.new(env)
      settings = read_settings
      return sign_in unless allowed?(env, settings)
      return [405, {}, []] unless request.get? || request.head?

      answer(request, settings)
    end

    private

    def read_settings
      JSON.parse(File.read(@settings_file))
    rescue Errno::ENOENT
      {}
    end

    def allowed?(env, settings)
      return false if settings['lost_password']
      return true unless settings['user']

      given = Rack::Auth::Basic::Request.new(env)
      given.provided? && given.basic? && given.credentials == settings.values_at('user', 'password')
    end

    def sign_in = [401, { 'www-authenticate' => 'Basic realm="files"', 'content-type' => 'text/plain' }, ["sign in\n"]]

    def answer(request, settings)
      path = File.expand_path(CGI.unescape(request.path_info.gsub('+', '%2B')).delete_prefix('/'), @folder)
      return [404, {}, []] unless (path == @folder || path.start_with?("#{@folder}/")) && File.exist?(path)
      return index(path, request) if File.directory?(path)

      file(path, request, settings)
    end

    def index(path, request)
      return [301, { 'location' => "#{request.path}/" }, []] unless request.path.end_with?('/')

      names = Dir.children(path).sort.reject { |name| name == SETTINGS }
      rows = names.map { |name| File.directory?(File.join(path, name)) ? "#{name}/" : name }.map do |name|
        "<li><a href=\"#{CGI.escape(name.chomp('/')).gsub('+', '%20')}#{'/' if name.end_with?('/')}\">#{CGI.escapeHTML(name)}</a></li>"
      end
      [200, { 'content-type' => 'text/html; charset=utf-8' },
       ["<!doctype html><title>Files</title><ul><li><a href=\"../\">../</a></li>#{rows.join}</ul>\n"]]
    end

    def file(path, request, settings)
      stat = File.stat(path)
      size = stat.size
      there = [settings.dig('truncated', path.delete_prefix("#{@folder}/")) || size, size].min
      headers = { 'accept-ranges' => 'bytes', 'last-modified' => stat.mtime.httpdate, 'content-type' => 'application/octet-stream',
                  'etag' => "\"#{size.to_s(36)}-#{stat.mtime.to_i.to_s(36)}\"" }
      return [200, headers.merge('content-length' => size.to_s), []] if request.head?

      range(request, size, there, headers, path, settings)
    end

    def range(request, size, there, headers, path, settings)
      wanted = Rack::Utils.get_byte_ranges(request.get_header('HTTP_RANGE'), there)&.first
      return [416, { 'content-range' => "bytes */#{there}" }, []] if request.get_header('HTTP_RANGE') && wanted.nil?

      first, last = wanted ? [wanted.begin, wanted.end] : [0, there - 1]
      headers = headers.merge('content-length' => (last - first + 1).to_s)
      headers['content-range'] = "bytes #{first}-#{last}/#{size}" if wanted
      [wanted ? 206 : 200, headers, Body.new(path, first, last - first + 1, settings, drop?(settings))]
    end

    def drop?(settings)
      @answers += 1
      every = settings['drop_every'].to_i
      every.positive? && (@answers % every).zero?
    end

    # The bytes, as fast as the settings allow; half of them where the line is to break.
    class Body
      def initialize(path, first, length, settings, drop)
        @path = path
        @first = first
        @length = length
        @rate = settings['bytes_per_second']
        @drop = drop
      end

      def each
        left = @drop ? @length / 2 : @length
        File.open(@path, 'rb') do |io|
          io.seek(@first)
          while left.positive? && (bytes = io.read([left, PIECE].min))
            sleep(bytes.bytesize / @rate.to_f) if @rate
            yield bytes
            left -= bytes.bytesize
          end
        end
        raise IOError, 'the line breaks, as the settings say' if @drop
      end
    end
  end
end
