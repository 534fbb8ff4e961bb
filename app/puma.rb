# frozen_string_literal: true

# Loopback only, unless EVREL_BIND says otherwise.
bind "tcp://#{ENV.fetch('EVREL_BIND', '127.0.0.1')}:#{ENV.fetch('EVREL_PORT', '8740')}"
threads 4, 16
environment 'production'
log_requests false
