# frozen_string_literal: true

# A name that can never resolve: the gem source of the machine is set as its
# mirror by setup/ruby_gems.rb, so no download address is written down here or in
# the lock file.
source 'https://gems.invalid'

gem 'activerecord', '~> 7.2.2'
gem 'bcrypt', '~> 3.1'
gem 'bindata', '~> 3.0'
gem 'blake3-rb', '~> 1.5'
gem 'delayed_job', '~> 4.1'
gem 'delayed_job_active_record', '~> 4.1'
gem 'ffi', '~> 1.17'
gem 'nokogiri', '~> 1.18'
gem 'openapi_parser', '~> 2.5'
gem 'prawn', '~> 2.5'
gem 'puma', '~> 8.0'
gem 'sinatra', '~> 4.2'
gem 'trilogy', '~> 2.9'
gem 'zeitwerk', '~> 2.6.18'
gem 'zip_kit', '~> 6.3'
gem 'zxcvbn', '~> 1.0'

# Ruby 3.1's own, which others ask for: newer ones would be compiled, for a
# quarter of a minute each, before the first start.
gem 'bigdecimal', '3.1.1'
gem 'json', '2.6.1'

group :test do
  gem 'axe-core-rspec', '~> 4.10'
  gem 'capybara', '~> 3.40'
  gem 'committee', '~> 5.6'
  gem 'json_schemer', '~> 2.4'
  gem 'rack-test', '~> 2.2'
  gem 'rspec', '~> 3.13'
  gem 'rubocop', '~> 1.81', require: false
  gem 'selenium-webdriver', '~> 4.32.0'
end
