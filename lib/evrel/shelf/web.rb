# frozen_string_literal: true

require 'net/http'
require 'nokogiri'
require 'time'

module Evrel
  module Shelf
    # A folder of any plain file server, read over HTTP or HTTPS (RFC 9110):
    # its index pages are followed downwards, files are read in ranges.
    class Web
      INDEX = 4 * MIB # of an index page
      MOST_FOLDERS = 10_000

      attr_reader :base

      # @param address [String] of the folder
      # @param user [String, nil] for basic sign-in
      # @param password [String, nil] is kept in memory only
      # @param networks [Array<String>] that it may lead into: see Networks
      # @raise [Refused] where the address is none
      def initialize(address, user: nil, password: nil, networks: [])
        @base = URI(address.end_with?('/') ? address : "#{address}/")
        raise Refused.new("#{address} is no web address", where: 'address') unless @base.is_a?(URI::HTTP) && @base.host

        @requests = WebRequests.new(@base, user, password, Networks.new(networks))
        @entries = {}
      rescue URI::InvalidURIError
        raise Refused.new("#{address} is no web address", where: 'address')
      end

      def each_file(folder = '', depth = 0, seen = {}, &block)
        return enum_for(:each_file, folder, depth, seen) unless block
        return if seen[folder] || seen.size >= MOST_FOLDERS

        seen[folder] = true
        links(folder).each do |path|
          next (each_file(path.chomp('/'), depth + 1, seen, &block) if depth < DEEPEST) if path.end_with?('/')

          yield looked_at(path)
        end
      rescue Unreadable => e
        raise if folder.empty?

        yield Entry.new(path: folder, problem: e.message)
      end

      # @raise [Unreadable] where the server does not answer
      def entry(path)
        path = Shelf.inside(path)
        @entries[path] ||= begin
          answer = @requests.head(path)
          of(path, answer) if answer.is_a?(Net::HTTPSuccess)
        end
      end

      # @raise [Unreadable]
      def open(path)
        found = entry(path) or raise Unreadable.new("#{path} is not there", where: path)
        Disk::Web.new(@requests, found)
      end

      def read(path, limit)
        disk = self.open(path)
        disk.read(0, [limit, disk.size].min)
      end

      def local(_path) = nil

      def folder?(path)
        links(Shelf.inside(path)) && true
      rescue Unreadable
        false
      end

      def siblings(path)
        folder = ::File.dirname(path)
        folder = '' if folder == '.'
        links(folder).reject { |link| link.end_with?('/') }.filter_map { |link| entry(link) }
      end

      # @return [nil] a web server does not tell
      def room = nil

      private

      def looked_at(path)
        entry(path) || Entry.new(path:, problem: 'the server does not give it')
      rescue Unreadable => e
        Entry.new(path:, problem: e.message)
      end

      # @return [Array<String>] paths of files, and of folders with "/" at the end, below +folder+
      def links(folder)
        page = @requests.page(folder, INDEX)
        here = @requests.address(folder, folder: true)
        Nokogiri::HTML(page).css('a[href]').filter_map { |link| below(here, link['href']) }.uniq
      end

      # Only downwards and on the same server; the rest leads out of the shelf.
      def below(here, link)
        target = here.merge(link.split(/[?#]/).first.to_s)
        return unless [target.scheme, target.host, target.port] == [here.scheme, here.host, here.port]
        return unless target.path.start_with?(here.path) && target.path.length > here.path.length

        URI.decode_www_form_component(target.path.delete_prefix(@base.path).gsub('+', '%2B')).scrub.then do |path|
          path.split('/').include?('..') ? nil : path
        end
      rescue URI::Error, ArgumentError
        nil
      end

      def of(path, answer)
        modified = answer['last-modified']
        stamp = [answer['etag'], modified, answer['content-length']].compact.join(' ')
        Entry.new(path:, size: answer['content-length'].to_i, modified_at: modified && Time.httpdate(modified), stamp:)
      rescue ArgumentError
        Entry.new(path:, size: answer['content-length'].to_i, stamp: answer['etag'].to_s)
      end
    end
  end
end
