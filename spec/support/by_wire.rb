# frozen_string_literal: true

require 'json'
require 'net/http'
require_relative 'waiting'

# Requests to an Evrel that runs by itself, as a signed-in page makes them.
class ByWire
  include Waiting

  # @return [String] what a signed-in page sends with each request
  attr_reader :cookie

  # @param port [Integer]
  def initialize(port)
    @port = port
  end

  def sign_in(as, password)
    call(:get, '/session')
    call(:post, '/session', sign_in: as, password:)
  end

  # @return [Hash, Array] the answer
  # @raise [RuntimeError] where it is a refusal
  def call(method, path, **body)
    request = Net::HTTP.const_get(method.capitalize).new("/api#{path}", 'Content-Type' => 'application/json', 'Cookie' => @cookie.to_s,
                                                                        'X-CSRF-Token' => @token.to_s)
    request.body = JSON.generate(body) unless method == :get
    answer = Net::HTTP.start('127.0.0.1', @port) { |http| http.request(request) }
    @cookie = answer['set-cookie'].split(';').first if answer['set-cookie']
    value = JSON.parse(answer.body)
    raise "#{method} #{path}: #{answer.body}" unless answer.is_a?(Net::HTTPSuccess)

    @token = value['token'] if value.is_a?(Hash) && value['token']
    value
  end

  # Seals the first four stations of a docket, for the drive in a port.
  def seal(docket, image:, port:, label:, reason: 'old stock')
    station = "/dockets/#{docket}/stations"
    call(:post, "#{station}/computer/seal")
    call(:post, "/images/#{image}/check")
    whole = ->(one) { one['id'] == image && one['state'] == 'whole' }
    eventually(600) { call(:get, "#{station}/image")['view']['images'].any?(&whole) }
    call(:post, "#{station}/image/seal", image_id: image)
    seal_target(docket, port:, label:, reason:)
  end

  # Target and Layout, for the drive in a port.
  def seal_target(docket, port:, label:, reason:)
    station = "/dockets/#{docket}/stations"
    drive = call(:get, "#{station}/target")['view']['drives'].find { |one| one['port'] == port }
    call(:post, "#{station}/target/seal", drive_id: drive['id'], label:, reason:)
    call(:post, "#{station}/layout/seal")
  end
end
