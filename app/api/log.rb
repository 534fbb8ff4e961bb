# frozen_string_literal: true

module Api
  # What goes into the log: a line for each call that was refused, and one for a
  # fault of our own. Neither repeats what was sent, nor what is known.
  class Log
    FRAMES = 6 # of our own code

    # @param app [#call]
    def initialize(app)
      @app = app
    end

    def call(env)
      answer = @app.call(env)
      env['rack.errors'].puts(line(env, answer.first)) if answer.first >= 400
      answer
    end

    private

    def line(env, status)
      error = env['sinatra.error']
      [Time.now.utc.iso8601, env['REQUEST_METHOD'], address(env), status, *(fault(error) if error && status >= 500)].join(' ')
    end

    # As it is described, with numbers alone of what is meant: a name may be a serial.
    def address(env)
      ids = env['PATH_INFO'].to_s.scan(%r{(?<=/)\d{1,18}(?=/|\z)})
      env.fetch('evrel.call', '?').gsub(/\{(?:id|part|other|try|mend|preset)\}/) { |name| ids.shift || name }
    end

    def fault(error)
      frames = error.backtrace.to_a.grep(%r{#{Regexp.escape(Config::ROOT)}/(?:app|lib)/}o).first(FRAMES)
      [error.class, plain(error.message), *frames.map { |frame| frame.delete_prefix("#{Config::ROOT}/")[/\A[^:]+:\d+/] }]
    end

    # Without what stands in quotation marks, and without records.
    def plain(message) = message.lines.first.to_s.gsub(/"[^"]*"|(?<!`)\b'[^']*'|'[^`']*'(?= for key)|#<.*>/, '…').strip[0, 160]
  end
end
