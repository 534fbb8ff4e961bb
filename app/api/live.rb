# frozen_string_literal: true

module Api
  # Live progress by Server-Sent Events. One thread looks at the database and
  # tells every open page; the sockets are taken over, so that an open page
  # holds no thread of the server. A page that reconnects loads its state anew:
  # nothing is lost by a gap.
  class Live
    EVERY = 0.4      # seconds between two looks
    HEARTBEAT = 15   # seconds
    WHO = 5          # seconds between two looks at who may listen
    MOST = 12        # pages of one sign-in that listen: the oldest go
    HEAD = "HTTP/1.1 200 OK\r\nContent-Type: text/event-stream\r\nCache-Control: no-store\r\n" \
           "X-Content-Type-Options: nosniff\r\nConnection: close\r\n\r\nretry: 1000\n\n"

    def initialize
      @sockets = {}
      @lock = Mutex.new
    end

    def call(env)
      sign_in = env[Signed::KEY] or return [401, { 'content-type' => 'text/plain' }, ["sign in first\n"]]

      add(env.fetch('rack.hijack').call, sign_in.id)
      [200, {}, []] # the server no longer looks at it
    rescue SystemCallError, IOError
      [499, {}, []]
    end

    private

    # Under the lock in one step: a page that is told that the line is open misses nothing from then on.
    def add(socket, sign_in_id)
      @lock.synchronize do
        @pulse ||= Pulse.new
        socket.write(HEAD)
        @sockets[socket] = sign_in_id
        crowd(sign_in_id)
        @thread = Thread.new { watch } unless @thread&.alive?
      end
    end

    # A page that is sent away comes back by itself, if somebody still looks at it.
    def crowd(sign_in_id)
      mine = @sockets.select { |_, id| id == sign_in_id }.keys
      mine.first([mine.size - MOST, 0].max).each { |socket| @sockets.delete(socket) && socket.close }
    end

    # Ends when the last page is closed; the next one starts it again.
    def watch
      quiet = 0.0
      looked = 0.0
      until done?
        messages = ActiveRecord::Base.connection_pool.with_connection { @pulse.news }
        looked = looked < WHO ? looked + EVERY : send_away
        messages.each { |name, data| send_all("event: #{name}\ndata: #{JSON.generate(data)}\n\n") }
        quiet = messages.any? ? 0.0 : quiet + EVERY
        if quiet >= HEARTBEAT
          send_all(": still here\n\n")
          quiet = 0.0
        end
        sleep EVERY
      end
    rescue ActiveRecord::ActiveRecordError => e
      warn "live: #{e.message}"
      close_all # the pages reconnect, and start it again
    end

    # Pages of whoever was signed out meanwhile, or did nothing for too long, hear no more.
    # @return [Float] seconds since they were looked at
    def send_away
      good = ActiveRecord::Base.connection_pool.with_connection { SignIn.good(@lock.synchronize { @sockets.values.uniq }) }
      @lock.synchronize { @sockets.reject! { |socket, id| !good.include?(id) && (socket.close || true) } }
      0.0
    end

    # Under the lock in one step: a page that comes now starts a new thread.
    def done?
      @lock.synchronize do
        next false if @sockets.any?

        @pulse = @thread = nil
        true
      end
    end

    def send_all(text)
      @lock.synchronize do
        @sockets.reject! do |socket, _|
          # Half a message would be the beginning of the next one.
          socket.write_nonblock(text) < text.bytesize && (socket.close || true)
        rescue SystemCallError, IOError
          socket.close
          true
        end
      end
    end

    def close_all
      @lock.synchronize do
        @sockets.each_key(&:close)
        @sockets.clear
        @pulse = @thread = nil
      end
    end
  end
end
