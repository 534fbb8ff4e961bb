# frozen_string_literal: true

require 'net/http'
require 'openssl'

module Evrel
  module Shelf
    # The requests of a web shelf: one connection that is kept, bounded
    # retries with growing waits, and errors that say what the server did.
    class WebRequests
      PATIENCE = 10      # seconds for an answer to begin
      TRIES = 4
      WAIT = 0.3         # seconds before the second try; doubled each time
      ERROR_PAGE = 64 * KIB # of what a server says of an error
      BROKEN = [SystemCallError, IOError, Timeout::Error, Net::HTTPBadResponse, Net::ProtocolError, OpenSSL::SSL::SSLError,
                SocketError].freeze

      # @param base [URI::HTTP] ends with "/"
      # @param networks [Networks] where it may lead to
      def initialize(base, user, password, networks)
        @base = base
        @user = user
        @password = password
        @networks = networks
        @lock = Mutex.new
      end

      # @param path [String] relative to the shelf
      # @return [URI]
      def address(path, folder: false)
        escaped = path.split('/').map { |name| URI.encode_www_form_component(name).gsub('+', '%20') }.join('/')
        URI.join(@base, "#{escaped}#{'/' if folder && !escaped.empty?}")
      end

      # @return [Net::HTTPResponse]
      # @raise [Unreadable]
      def head(path) = request(Net::HTTP::Head.new(address(path)))

      # @return [String] an index page
      # @raise [Unreadable]
      def page(path, limit)
        answer = request(Net::HTTP::Get.new(address(path, folder: true)), limit:)
        return answer.body.to_s if answer.is_a?(Net::HTTPSuccess)

        raise Unreadable.new("the server answers #{answer.code} for #{path.empty? ? 'the shelf' : path}", where: path)
      end

      # @param stamp [String, nil] the file's "ETag", where it has one
      # @return [String] exactly +length+ bytes
      # @raise [Unreadable] where they do not come, or the file is another by now
      def range(path, offset, length, stamp)
        asked = Net::HTTP::Get.new(address(path))
        asked['Range'] = "bytes=#{offset}-#{offset + length - 1}"
        answer = request(asked, limit: length) { |got| complete!(got, length, path, offset) }
        return answer.body.b if stamp.nil? || answer['etag'].nil? || stamp == answer['etag']

        raise Unreadable.new("#{path} was changed on the server while it was read", where: path, hint: 'look through the shelf again')
      end

      private

      # An answer that breaks off is asked for again; one that says no is not.
      def complete!(answer, length, path, offset)
        given = answer['content-range']
        raise Net::HTTPBadResponse, "it gives #{given}" if given && !given.start_with?("bytes #{offset}-", 'bytes */')

        got = answer.is_a?(Net::HTTPPartialContent) ? answer.body.to_s.bytesize : 0
        return if got == length

        raise EOFError, "#{got} of #{answer.content_length} bytes" if got.positive? && got < answer.content_length.to_i

        raise Unreadable.new("#{path} ends early on the server", where: "byte #{offset + got}", hint: 'look through the shelf again')
      end

      def request(asked, limit: nil)
        asked.basic_auth(@user, @password.to_s) if @user
        asked['Accept-Encoding'] = 'identity'
        tries = 0
        begin
          tries += 1
          answer = @lock.synchronize { exchange(asked, limit || 0) }
          signed_in!(answer)
          yield answer if block_given?
          answer
        rescue *BROKEN => e
          @lock.synchronize { drop }
          if tries >= TRIES
            raise Unreadable.new("the server does not answer: #{words(e)}", where: @base.host,
                                                                            hint: 'look whether it can be reached')
          end

          sleep WAIT * (2**(tries - 1))
          retry
        end
      end

      # A connection whose answer was not taken whole, because the thread was
      # ended meanwhile too, would give it to the next request.
      def exchange(asked, limit)
        answer = connection.request(asked) { |coming| take(coming, asked, limit) }
      ensure
        drop unless answer
      end

      # Not more than was asked for is ever held: whoever sends more is not heard to the end.
      def take(coming, asked, limit)
        return if asked.method == 'HEAD'
        raise Unsupported.new('the server does not give ranges of a file', where: asked.path) if asked['Range'] && coming.is_a?(Net::HTTPOK)

        most = coming.is_a?(Net::HTTPSuccess) ? limit : ERROR_PAGE
        got = ''.b
        coming.read_body do |piece|
          got << piece
          raise Unreadable.new('the server gives more than was asked for', where: @base.host) if got.bytesize > most
        end
        coming.body = got
      end

      def signed_in!(answer)
        return unless %w[401 403].include?(answer.code)

        raise Unreadable.new('the server wants another sign-in', where: @base.host, hint: 'give the shelf its user and password again')
      end

      def connection
        @connection ||= Net::HTTP.new(@base.hostname, @base.port, nil).tap do |http|
          http.use_ssl = @base.scheme == 'https'
          http.open_timeout = http.read_timeout = PATIENCE
          http.max_retries = 0
          http.ipaddr = @networks.address(@base.hostname)
          http.start
        end
      end

      def drop
        @connection&.finish if @connection&.started?
      rescue IOError
        nil
      ensure
        @connection = nil
      end

      # What a foreign server says itself is not repeated.
      def words(error)
        return 'what it says is no answer' if error.is_a?(Net::HTTPBadResponse) || error.is_a?(Net::ProtocolError)

        error.message.sub(/\A[A-Z]\w*(::\w+)* /, '').downcase
      end
    end
  end
end
